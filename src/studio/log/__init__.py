"""The log: every take, newest first, found by whatever one remembers of it; and what was deleted."""

"""Scores that are brought in: read by the worker, and made into what their page wants."""

"""One figure of a take a module, each given or missing with what it needs."""

"""The method page: how each figure is made, from ``docs/method.md``."""

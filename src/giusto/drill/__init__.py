"""A drill: its file, its changes, its places and how it is counted."""

from giusto.drill.file import Drill, parse, validate

__all__ = ["Drill", "parse", "validate"]

"""Pieces: their bars, stretches and joins up to a goal, where takes lean in them, places marked by hand."""

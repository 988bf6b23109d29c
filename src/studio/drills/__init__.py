"""Drills: the shelf of built-in ones, and the sentence in which the click is set."""

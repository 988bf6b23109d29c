"""Passages of scores: their bars and onsets, and the drill that asks for them."""

from giusto.drill.passage.bars import Bar, Score, ScorePart, chosen_bars
from giusto.drill.passage.made import passage_drill
from giusto.drill.passage.reader import read_score, read_score_apart

__all__ = ["Bar", "Score", "ScorePart", "chosen_bars", "passage_drill", "read_score", "read_score_apart"]

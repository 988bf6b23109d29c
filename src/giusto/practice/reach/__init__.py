"""Reach: how long a silence a player bridges, by returns with their spreads, or by what was held and what was not."""

from giusto.practice.reach.by_drift import ChanceAt, Reach, reach
from giusto.practice.reach.file import is_of_outcomes, parse_silences
from giusto.practice.reach.returns_csv import parse_returns

__all__ = ["ChanceAt", "Reach", "is_of_outcomes", "parse_returns", "parse_silences", "reach"]

"""Reach: how long a silence a player bridges, by what was held and by what their clock lets expect."""

from giusto.practice.reach.estimate import Curve, Reach, fading, reach, reach_curve
from giusto.practice.reach.file import parse_silences

__all__ = ["Curve", "Reach", "fading", "parse_silences", "reach", "reach_curve"]

"""Ladders: which rung to play now, by the rule that a teacher or a player keeps."""

from giusto.practice.ladder.attempts import Attempt, parse_attempts, write_attempts
from giusto.practice.ladder.climb import FoundEdge, Step, next_step
from giusto.practice.ladder.file import Ladder, ladder_of, parse_ladder

__all__ = [
    "Attempt",
    "FoundEdge",
    "Ladder",
    "Step",
    "ladder_of",
    "next_step",
    "parse_attempts",
    "parse_ladder",
    "write_attempts",
]

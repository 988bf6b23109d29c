"""Ladders: which rung to play now, by the rule that a teacher or a player keeps."""

from giusto.practice.ladder.attempts_csv import Attempt, parse_attempts, write_attempts
from giusto.practice.ladder.climb import Step, climbed, next_step, secure_course, step_from
from giusto.practice.ladder.file import Ladder, ladder_of, parse_ladder
from giusto.practice.ladder.rules import RULES
from giusto.practice.ladder.state import FoundEdge, State, Why

__all__ = [
    "RULES",
    "Attempt",
    "FoundEdge",
    "Ladder",
    "State",
    "Step",
    "Why",
    "climbed",
    "ladder_of",
    "next_step",
    "parse_attempts",
    "parse_ladder",
    "secure_course",
    "step_from",
    "write_attempts",
]

"""Ladders: which rung to play now, by the rule that a teacher or a player keeps."""

from giusto.practice.ladder.attempts import Attempt, parse_attempts
from giusto.practice.ladder.climb import Step, next_step
from giusto.practice.ladder.file import Ladder, parse_ladder

__all__ = ["Attempt", "Ladder", "Step", "next_step", "parse_attempts", "parse_ladder"]

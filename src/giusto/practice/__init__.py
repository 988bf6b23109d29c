"""The judge: what a reading shows, what to play next, habits and changes over takes."""

from giusto.practice.judge import Judgement, judge

__all__ = ["Judgement", "judge"]

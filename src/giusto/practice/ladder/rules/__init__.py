"""The schools: one module each, with its file's fields, its defaults and what it does.

A new one is a module here, a name in ``AnyRule``, its words in the site (``studio/ladders/schools.py``) and a row
in ``docs/formats.md``.
"""

from __future__ import annotations

from typing import Annotated, get_args

from pydantic import Field

from giusto.practice.ladder.rules.band import Band
from giusto.practice.ladder.rules.edge import Edge
from giusto.practice.ladder.rules.rule import Fall, Rule
from giusto.practice.ladder.rules.stay import Stay
from giusto.practice.ladder.rules.streak import Streak
from giusto.practice.ladder.rules.total import Total
from giusto.practice.ladder.rules.week import Week

AnyRule = Annotated[Streak | Total | Stay | Edge | Week | Band, Field(discriminator="kind")]
RULES: dict[str, type[Rule]] = {
    get_args(rule.model_fields["kind"].annotation)[0]: rule for rule in get_args(get_args(AnyRule)[0])
}

__all__ = ["RULES", "AnyRule", "Band", "Edge", "Fall", "Rule", "Stay", "Streak", "Total", "Week"]

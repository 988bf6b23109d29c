"""Stories from the grammar of players: no false word, and no contradiction between verdict, findings and next."""

import json
import secrets
from collections import Counter
from pathlib import Path
from unittest import TestCase

import jsonschema

from giusto.practice.judge import Judgement, judge
from giusto.reading import analyse
from giusto.simulation.stories import PLOTS, story

SCHEMA = json.loads((Path(__file__).parents[3] / "docs/schema/advice-2.json").read_text(encoding="utf-8"))
STORIES = 200
MOST_OTHERWISE = 0.03  # ours: of takes by chance; players are random, and so is what they play
SIDES = {"dragged": "narrow", "rushed": "wide"}  # a verdict, and the finding that would deny it


class StoriesTests(TestCase):
    def test_what_is_said_is_what_a_teacher_would_say(self) -> None:
        seeds = [secrets.randbelow(2**31) for _ in range(STORIES)]  # others each time: a failure names its own
        otherwise = Counter[str]()
        told = []
        for seed in seeds:
            one = story(seed)
            found = judge(one.plan, analyse(one.plan, one.onsets_s).reading)
            codes = [finding.code for finding in found.findings]
            with self.subTest(seed=seed, title=one.title):
                self.agrees(found)
                jsonschema.validate(json.loads(json.dumps(found.plain())), SCHEMA)
            if found.verdict.code not in one.verdicts or (one.finding and one.finding not in codes):
                otherwise[one.title.split(" by ")[0]] += 1
                told.append((seed, one.title, found.verdict.code, codes))
        self.assertLessEqual(otherwise.total(), MOST_OTHERWISE * STORIES, told)

    def agrees(self, found: Judgement) -> None:
        """Check that verdict, findings, clean and the ways on say one thing."""
        verdict, codes = found.verdict.code, {finding.code for finding in found.findings}
        proposed, choices = found.advice.proposed, found.advice.choices
        if verdict == "held":
            self.assertNotEqual(proposed.way, "easier")
        if found.clean.told == "clean":
            self.assertNotIn(verdict, ("dragged", "rushed", "slipped", "uneven", "own-tempo", "not-this-drill"))
            self.assertNotEqual(proposed.way, "easier")
        if verdict in SIDES:
            self.assertNotIn(SIDES[verdict], codes)
        if verdict in ("own-tempo", "beat-off", "not-this-drill", "other-part"):
            self.assertEqual(proposed.way, "again")
            self.assertIsNone(found.clean.told if verdict == "not-this-drill" else None)
        drills = [step.drill.model_dump_json() for step in choices]
        self.assertEqual(len(set(drills)), len(drills))
        self.assertEqual(len({step.way for step in choices}), len(choices))
        self.assertIn(proposed, choices)

    def test_the_grammar_tells_each_plot(self) -> None:
        titles = {story(seed).title.split(" by ")[0] for seed in range(150)}
        self.assertGreaterEqual(len(titles), len(PLOTS))

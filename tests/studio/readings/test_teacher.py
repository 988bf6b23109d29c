"""What a teacher would say of takes in which something else was played than was asked.

The takes and the sentences are those of the table that a hard look at the first version wrote down:
all as eighths at 160, two heard and two silent.
"""

import html
import re

import numpy as np
from django.test import TestCase

from giusto.arrays import FloatArray
from giusto.drill import validate
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import plain
from tests.studio.playing import send

DRILL = plain(bpm=160, cycles=8)
PLAN = schedule(validate(DRILL))
TAKE = simulate(PLAN, SimulatedPlayer(clock_percent=1.0, hand_ms=6.0), seed=4)
ONSETS, ASKED = TAKE.onsets_s, TAKE.asked
ALONE = np.zeros(len(PLAN.notes), dtype=bool)
for silence in PLAN.silences:
    ALONE |= (PLAN.notes.tick > silence.start_tick) & (PLAN.notes.tick < silence.end_tick)
SIXTEENTH_S = 60 / 160 / 4


class TeacherTests(TestCase):
    def page(self, onsets_s: FloatArray) -> str:
        take = send(self.client, DRILL, np.sort(onsets_s))
        text = self.client.get(take.get_absolute_url()).content.decode()
        return " ".join(html.unescape(re.sub(r"<[^>]+>", " ", text)).split())

    def test_each_is_told_what_was_played(self) -> None:
        rng = np.random.default_rng(2)
        rows = (
            ("quarters", ONSETS[ASKED % 2 == 0], "you played every second of them. Your"),
            (
                "quarters alone",
                ONSETS[(ASKED % 2 == 0) | ~ALONE[ASKED]],
                "you played every second of them when the click was gone",
            ),
            ("sixteenths", np.concatenate([ONSETS, ONSETS + SIXTEENTH_S + 0.004]), "you played twice as many"),
            ("each note twice", np.concatenate([ONSETS, ONSETS + 0.045]), "strokes sounded twice"),
            ("silent in each silence", ONSETS[~ALONE[ASKED]], "With the click you played, without it you did not"),
            ("half notes", ONSETS[ASKED % 4 == 0], "you played every fourth of them"),
            ("from cycle 3 on", ONSETS[PLAN.notes.cycle[ASKED] >= 3], "You came in at bar 3"),
            ("random hits", rng.uniform(1.5, 15.0, 72), "This was not the drill."),
            (
                "uneven hands",
                simulate(PLAN, SimulatedPlayer(clock_percent=1.0, hand_ms=30.0), seed=4).onsets_s,
                "that is a matter of the hands",
            ),
        )
        for name, onsets_s, sentence in rows:
            with self.subTest(name):
                page = self.page(onsets_s)
                self.assertIn(sentence, page)
                self.assertNotIn("Check the level", page)

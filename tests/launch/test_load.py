"""The load's tables, of looks and sizes that are written down; and what its players send."""

from __future__ import annotations

import io
import time
import wave
from collections import Counter
from dataclasses import replace
from unittest import TestCase
from unittest.mock import patch

from giusto.drill.passage.reader import read_score
from launch.hosts import ramp
from launch.hosts.load import RATE_HZ, SCORE_BARS, TAKE_S, PractisingBrowser, _recording, _score, _struck, report
from launch.hosts.players import Answers


class ReportTests(TestCase):
    def test_only_what_came_after_warming_up_counts(self) -> None:
        """Ten minutes: the first two are left out; of looks, the first fifth."""
        requests: list[list[object]] = [[60.0 * minute, 5.0 if minute < 2 else 0.02, "200"] for minute in range(10)]
        looks: list[list[object]] = [["/log/", 9.0, "503"], *(["/log/", 0.05 + 0.002 * k, "200"] for k in range(9))]
        found = report({"requests": requests, "looks": looks}, {"worker": [500.0, *[100.0] * 9]}, minutes=10)
        self.assertIn("| a batch | 8 | 0 | 20 | 20 | 20 |", found)
        self.assertIn("| /log/ | 8 | 0 | 59 | 64 | 66 |", found)  # of .052 to .066 s
        self.assertIn("| worker | 100 | 100 | 100 | 100 |", found)

    def test_only_a_file_may_lead_on(self) -> None:
        """A page that leads elsewhere was not shown: who is signed out is led to the door."""
        both = ("/log/", "take.wav to /recording/")
        looks: list[list[object]] = [[name, 0.1, "302"] for name in both for _ in range(5)]
        found = report({"requests": [], "looks": looks}, {}, minutes=1)
        self.assertIn("| /log/ | 4 | 4 |", found)
        self.assertIn("| take.wav to /recording/ | 4 | 0 |", found)

    def test_what_is_refused_is_counted(self) -> None:
        requests: list[list[object]] = [[float(k), 0.1, "200" if k % 2 else "503"] for k in range(100)]
        self.assertIn("| a batch | 88 | 44 |", report({"requests": requests, "looks": []}, {}, minutes=1))


class PlayerTests(TestCase):
    def test_keys_are_eighths_and_sound_goes_on_from_second_to_second(self) -> None:
        keys, heard = (PractisingBrowser("", "", 0.0, Answers(), has_sound=sound) for sound in (False, True))
        notes = [note["at_ms"] for number in range(6) for note in keys.batch(number)["notes"]]  # type: ignore[attr-defined]
        self.assertEqual(len(notes), 20)
        self.assertTrue(all(abs(at - 1000 - 300 * k) <= 7 for k, at in enumerate(notes)))
        sound = [heard.batch(number)["sound"][0] for number in range(4)]  # type: ignore[index]
        self.assertEqual([one["frame"] for one in sound], [0, RATE_HZ, 2 * RATE_HZ, 3 * RATE_HZ])
        self.assertEqual(sound[3]["samples"], _struck(0))

    def test_a_recording_and_a_score_are_what_the_site_takes(self) -> None:
        """Read by the core: forty seconds of strokes 300 ms apart, and thirty-two bars."""
        with wave.open(io.BytesIO(_recording())) as file:
            self.assertEqual((file.getframerate(), file.getnframes()), (RATE_HZ, TAKE_S * RATE_HZ))
        (part,) = read_score(_score()).parts
        self.assertEqual(len(part.hands[""]), SCORE_BARS)

    def test_files_and_dearer_pages_come_every_so_often(self) -> None:
        player, done = PractisingBrowser("", "", 0.0, Answers(), has_sound=False), []  # type: ignore[var-annotated]
        with patch.object(player, "timed", lambda page, path, body=None: done.append((page, path, body is not None))):
            for turn in range(1, 13):
                player.do_more(turn)
        pages = Counter(page for page, *_ in done)
        self.assertEqual(pages["take.wav to /recording/"], 4)
        self.assertEqual(pages["piece.musicxml to /pieces/new/"], 3)
        self.assertEqual((pages["/progress/figures/"], pages["each note"]), (6, 2))
        self.assertEqual({sends for page, _, sends in done if " to " in page}, {True})


class StandIn:
    """A browser whose batches wait 10 ms for each browser that there is."""

    there = 0

    def __init__(self, address: str, cookie: str, until: float, found: Answers, *, has_sound: bool) -> None:
        del address, cookie, until, has_sound
        self.found = found

    def start(self) -> None:
        """Have sent a batch in the step to come."""
        StandIn.there += 1
        self.found.requests.append((time.time() + 10, 0.01 * StandIn.there, "200"))


class RampTests(TestCase):
    def test_it_ends_at_the_first_step_where_a_batch_waits_a_second(self) -> None:
        StandIn.there = 0
        with patch.multiple(ramp, SteadyBrowser=StandIn, SETTLE_S=0.0, STEP_S=0.01):
            steps = ramp.ramp("nowhere", ["a", "b"])
        self.assertEqual([one.browsers for one in steps], [10, 20, 30, 40, 60, 80, 100, 130])
        self.assertEqual([one.is_borne for one in steps], [True] * 7 + [False])
        self.assertIn("| 130 | 13000 |", ramp.table(steps))

    def test_one_refused_batch_is_too_much(self) -> None:
        step = ramp.RampStep(10, 10.0, 0.1, 0.2, 0.3, refused=1)
        self.assertFalse(step.is_borne)
        self.assertTrue(replace(step, refused=0).is_borne)

"""The load's tables, of looks and sizes that are written down; and what its players send."""

from __future__ import annotations

from unittest import TestCase

from launch.hosts.load import RATE_HZ, PractisingBrowser, _struck, report
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

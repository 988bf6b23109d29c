"""Onsets as CSV: read, written, and read by others."""

import csv
import io
from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.errors import GiustoError
from giusto.notes.csv_file import parse_notes, write_notes
from giusto.notes.record import notes_of

ONSETS = np.array([-0.25, 0.0, 2.4883, 2.805123456])


class OnsetCsvTests(TestCase):
    def test_round_trip(self) -> None:
        assert_allclose(parse_notes(write_notes(notes_of(ONSETS))).onset_s, ONSETS, rtol=0, atol=1e-9)

    def test_other_readers_agree(self) -> None:
        """Python's csv (excel dialect) and numpy read the same numbers."""
        text = write_notes(notes_of(ONSETS))
        rows = list(csv.DictReader(io.StringIO(text), dialect="excel"))
        assert_allclose([float(row["time_s"]) for row in rows], ONSETS, rtol=0, atol=1e-9)
        assert_allclose(np.genfromtxt(io.StringIO(text), names=True)["time_s"], ONSETS, rtol=0, atol=1e-9)

    def test_optional_columns_any_order_and_line_ends(self) -> None:
        text = 'label,time_s,strength\n"a, b",1.5,0.2\n\n,2.5,\n'
        found = parse_notes(text.encode("utf-8-sig"))
        self.assertEqual((found.onset_s.tolist(), found.label.tolist()), ([1.5, 2.5], ["a, b", ""]))
        self.assertEqual((found.strength[0], bool(np.isnan(found.strength[1]))), (0.2, True))

    def test_strength_source_and_label_come_back(self) -> None:
        notes = notes_of([2.0, 1.0], strength=[0.5, np.nan], source=["j", "pad"], label=["", "x"])
        text = write_notes(notes)
        self.assertEqual(write_notes(parse_notes(text)), text)
        self.assertEqual(text.splitlines()[1], "1.000000000,,pad,x")

    def test_header_alone_is_an_empty_take(self) -> None:
        self.assertEqual(len(parse_notes("time_s\n")), 0)

    def test_what_just_still_counts(self) -> None:
        found = parse_notes("time_s,strength\n1.0,0\n2.0,1\n" + "3." + "0" * 38 + ",.5\n")
        self.assertEqual(found.strength.tolist(), [0.0, 1.0, 0.5])
        self.assertEqual(found.onset_s.tolist(), [1.0, 2.0, 3.0])

    def test_faults_name_their_line(self) -> None:
        cases = (
            ("", 'line 1 must be a header with "time_s"'),
            ("1.0\n2.0\n", 'line 1 must be a header with "time_s", found "1.0"'),
            ("time_s,pitch\n1,2\n", 'line 1 has a column "pitch"'),
            ("time_s,time_s\n1,2\n", "line 1 names a column twice"),
            ("time_s\n1.0\nx\n", 'line 3: time_s is "x"'),
            ("time_s\n1,5\n", "line 2 has 2 fields, allowed are the header's 1"),
            ("time_s\n1.0\n\n0.5\n", "onsets_s must ascend: 0.5 s after 1.0 s at line 4"),
            ("time_s\nnan\n", 'line 2: time_s is "nan"'),
            ("time_s\n1e999\n", "onsets_s must be finite: inf at line 2"),
            ("time_s,strength\n1,2\n", "line 2: strength is 2, allowed is 0 to 1"),
            ("time_s,label\n1\n", "line 2 has 1 fields, allowed are the header's 2"),
            (
                "time_s\n" + "1" * 41 + "\n",
                f'line 2: time_s is "{"1" * 40}", allowed',
            ),  # a number, but longer than any time is
            ("time_s,strength\n1,-.5\n", "line 2: strength is -.5, allowed is 0 to 1"),
            ("time_s\n١\n", "line 2: time_s is"),  # only ASCII digits
            ("time_s\n" + "1" * 60000 + "x\n", "line 2: time_s is"),  # and not for minutes
            (b"\xff\xfe\x00", "not UTF-8"),
            ('time_s\n"1.0\n', "not CSV"),
        )
        for text, message in cases:
            with self.subTest(message), self.assertRaises(GiustoError) as caught:
                parse_notes(text)
            self.assertIn(message, str(caught.exception))

"""Onsets as CSV: read, written, and read by others."""

import csv
import io
from unittest import TestCase

import numpy as np
import pandas as pd
from numpy.testing import assert_allclose

from giusto.errors import GiustoError
from giusto.onset_csv import parse_onsets, write_onsets

ONSETS = np.array([-0.25, 0.0, 2.4883, 2.805123456])


class OnsetCsvTests(TestCase):
    def test_round_trip(self) -> None:
        assert_allclose(parse_onsets(write_onsets(ONSETS)), ONSETS, rtol=0, atol=1e-9)

    def test_other_readers_agree(self) -> None:
        """Python's csv (excel dialect) and pandas read the same numbers."""
        text = write_onsets(ONSETS)
        rows = list(csv.DictReader(io.StringIO(text), dialect="excel"))
        assert_allclose([float(row["time_s"]) for row in rows], ONSETS, rtol=0, atol=1e-9)
        assert_allclose(pd.read_csv(io.StringIO(text))["time_s"], ONSETS, rtol=0, atol=1e-9)

    def test_optional_columns_any_order_and_line_ends(self) -> None:
        text = 'label,time_s,strength\n"a, b",1.5,0.2\n\n,2.5,\n'
        self.assertEqual(parse_onsets(text.encode("utf-8-sig")).tolist(), [1.5, 2.5])

    def test_header_alone_is_an_empty_take(self) -> None:
        self.assertEqual(parse_onsets("time_s\n").size, 0)

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
            (b"\xff\xfe\x00", "not UTF-8"),
            ('time_s\n"1.0\n', "not CSV"),
        )
        for text, message in cases:
            with self.subTest(message), self.assertRaises(GiustoError) as caught:
                parse_onsets(text)
            self.assertIn(message, str(caught.exception))

"""Rows of a CSV file as RFC 4180 has them, and what is no CSV."""

from unittest import TestCase

from giusto.errors import GiustoError
from giusto.notes.csv_rows import csv_rows


class RowTests(TestCase):
    def test_quoted_fields_blank_lines_and_a_mark_of_byte_order(self) -> None:
        """RFC 4180, section 2: quotes around commas, doubled quotes, breaks within; the line is the one it ends on."""
        text = '\ufeff time_s ,label\r\n0.5,"a ""b"", c"\r\n\r\n1.0,"two\nlines"\r\n'
        header, rows = csv_rows(text.encode(), "the onsets")
        self.assertEqual(header, ["time_s", "label"])
        self.assertEqual(rows, [(2, ["0.5", 'a "b", c']), (5, ["1.0", "two\nlines"])])

    def test_nothing_is_no_header_and_no_rows(self) -> None:
        self.assertEqual(csv_rows("", "the onsets"), ([], []))

    def test_what_is_no_text_or_no_csv_says_where(self) -> None:
        with self.assertRaisesRegex(GiustoError, r"the takes are not UTF-8 text \(byte 2\)"):
            csv_rows(b"ab\xff", "the takes")
        with self.assertRaisesRegex(GiustoError, "not CSV at line 2"):
            csv_rows('a,b\n"x"y,1\n', "the onsets")

"""The text of a JSON file of ours: what is refused before anything is looked at."""

import json
from unittest import TestCase

from giusto.drill.json_file import MAX_BYTES, MAX_FIELDS, read_json
from giusto.errors import DrillError


class JsonTests(TestCase):
    def test_what_json_says_is_read(self) -> None:
        """Of the example of RFC 8259, section 13: an array, a number, a text with an escape, a mark before it."""
        self.assertEqual(read_json(b'\xef\xbb\xbf[116, 943.5, "a\\u00e9", null, true]'), [116, 943.5, "aé", None, True])
        self.assertEqual(read_json('"\\ud83e\\udd41"'), "🥁")  # both halves of one character

    def test_limits_are_allowed_and_past_them_is_not(self) -> None:
        many = {f"f{n}": n for n in range(MAX_FIELDS)}
        self.assertEqual(read_json(json.dumps(many)), many)
        self.assertEqual(read_json('"' + "x" * (MAX_BYTES - 2) + '"'), "x" * (MAX_BYTES - 2))
        for text, code in (
            (json.dumps(many | {"one": 1}), "too_many_fields"),
            ('"' + "x" * (MAX_BYTES - 1) + '"', "too_large"),
        ):
            with self.subTest(code), self.assertRaises(DrillError) as caught:
                read_json(text)
            self.assertEqual([fault.code for fault in caught.exception.faults], [code])

    def test_each_flaw_of_the_text_has_its_line(self) -> None:
        for text, path, told in (
            ("", "", "not JSON: Expecting value at line 1, column 1"),
            ('{"a": 1,\n b}', "", "not JSON: Expecting property name enclosed in double quotes at line 2, column 2"),
            (b'{"a": "\xff"}', "", "not UTF-8 text (byte 7)"),
            ('{"bpm": 1, "beat": 2, "bpm": 3}', "bpm", "stands twice in one object, allowed is once"),
            ('{"bpm": NaN}', "", "NaN is no number that a drill may use"),
            ('{"bpm": -Infinity}', "", "-Infinity is no number that a drill may use"),
            ('{"name": "\\ud800"}', "", "not text: half a character (a lone surrogate) in it"),
            ("[" * 200_000, "", "not JSON: nested too deeply or a number too long"),
            ("1" * 5_000, "", "not JSON: nested too deeply or a number too long"),
        ):
            with self.subTest(told), self.assertRaises(DrillError) as caught:
                read_json(text)
            self.assertEqual([(fault.path, fault.problem) for fault in caught.exception.faults], [(path, told)])

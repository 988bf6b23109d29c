"""The drill file: what is read, and how each fault is told."""

import json
from pathlib import Path
from typing import Any
from unittest import TestCase

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from giusto.drill import parse, validate
from giusto.drill.file import free_schema, json_schema
from giusto.errors import DrillError
from tests.drills import plain

SCHEMAS = Path(__file__).parents[3] / "docs/schema"


def changed(path: str, value: Any) -> dict[str, Any]:
    """Return a good drill with one value changed, by a path such as ``tempo.bpm``."""
    drill = plain()
    at: Any = drill
    *steps, last = path.split(".")
    for step in steps:
        at = at[step]
    at[last] = value
    return drill


class GoodDrillTests(TestCase):
    def test_round_trip(self) -> None:
        self.assertEqual(validate(plain()).plain(), plain())

    def test_defaults(self) -> None:
        short = {
            "giusto": "drill/1",
            "tempo": {"bpm": 60.5},
            "cycle": {"beats": 3},
            "clicks": {"on": ["1"]},
            "part": {"grid": 1},
            "cycles": 4,
        }
        drill = validate(short)
        self.assertEqual(drill.tempo.beat, "1/4")
        self.assertEqual(drill.cycle.grouping, (3,))
        self.assertEqual((drill.clicks.every, drill.clicks.accent, drill.clicks.subdivide), (1, "none", 1))
        self.assertEqual((drill.count_in, drill.close, drill.part.play), (1, 1, "grid"))

    def test_whole_language_is_read(self) -> None:
        silences = (
            None,
            {"kind": "growing", "heard": 2, "silent": 1, "step": 1, "max": 4},
            {"kind": "random", "unit": "beat", "probability": 0.25, "longest": 4, "seed": 7},
        )
        for silence in silences:
            self.assertEqual(validate(changed("clicks.silence", silence)).plain()["clicks"]["silence"], silence)
        validate(changed("clicks.shift", {"every_cycles": 4, "by": "1/4"}))
        validate(changed("part.play", [{"cycles": 4, "at": ["1"]}, {"cycles": 4, "at": ["1", "3+1/2"]}]))
        validate(changed("part.play", "free"))

    @given(
        bpm=st.floats(10, 400, allow_nan=False).map(lambda bpm: round(bpm, 3)),
        beats=st.integers(1, 64),
        grid=st.integers(1, 8),
        cycles=st.integers(1, 2000),
    )
    @settings(max_examples=60, deadline=None)
    def test_text_round_trip(self, bpm: float, beats: int, grid: int, cycles: int) -> None:
        drill = validate(plain(bpm=bpm, beats=beats, grid=grid, cycles=cycles))
        self.assertEqual(parse(json.dumps(drill.plain())), drill)


class BadDrillTests(TestCase):
    def test_each_fault_is_named_with_its_place_and_what_is_allowed(self) -> None:
        cases = (
            ("tempo.bpm", 500, "tempo.bpm: is 500, allowed is at most 400"),
            ("tempo.bpm", "96", 'tempo.bpm: is "96", allowed is a number'),
            ("tempo.bpm", True, "tempo.bpm: is true, allowed is a number"),
            ("tempo.beat", "quarter", "tempo.beat: is"),
            ("tempo.swing", 3, "tempo.swing: is not a field that this file may have"),
            ("cycle.groups", [2, 3], "cycle.groups: is a sum of 5, allowed is the cycle's 4 beats"),
            ("cycle.beats", 65, "cycle.beats: is 65, allowed is at most 64"),
            ("clicks.on", [], "clicks.on: is [], allowed is a list of at least 1"),
            ("clicks.on", ["5"], 'clicks.on[0]: is "5", allowed are places in a cycle of 4 beats'),
            ("clicks.on", ["1", "1"], 'clicks.on[1]: is "1" a second time, allowed is once'),
            ("clicks.on", ["2+3/2"], 'clicks.on[0]: is "2+3/2", allowed is a place such as'),
            ("clicks.silence", {"kind": "odd"}, "clicks.silence: is"),
            ("clicks.silence", {"kind": "fixed", "heard": 2}, "clicks.silence.silent: is missing"),
            ("clicks.accent", "loud", "clicks.accent: is \"loud\", allowed is 'none', 'first' or 'groups'"),
            ("part.grid", 2.0, "part.grid: is 2.0, allowed is a whole number"),
            ("part.play", ["2+1/3"], 'part.play[0]: is "2+1/3", allowed are the slots of part.grid'),
            ("part.play", "gird", "part.play: is \"gird\", allowed is 'grid' or 'free'"),
            ("part.play", 7, "part.play: is 7, allowed is"),
            ("count_in", -1, "count_in: is -1, allowed is at least 0"),
            ("cycles", 0, "cycles: is 0, allowed is at least 1"),
            ("giusto", "drill/4", "giusto: is \"drill/4\", allowed is 'drill/1', 'drill/2' or 'drill/3'"),
            ("clicks.swing", 2, "clicks.swing: is not a field that drill/1 may have; drill/3 has it"),
        )
        for path, value, message in cases:
            with self.subTest(path=path, value=value), self.assertRaises(DrillError) as caught:
                validate(changed(path, value))
            self.assertIn(message, str(caught.exception))

    def test_all_faults_are_collected(self) -> None:
        drill = changed("tempo.bpm", 5)
        drill["cycles"] = "many"
        with self.assertRaises(DrillError) as caught:
            validate(drill)
        self.assertEqual([fault.path for fault in caught.exception.faults], ["tempo.bpm", "cycles"])

    def test_text_that_is_no_drill(self) -> None:
        cases = (
            ("[", "not JSON"),
            ("[]", "a drill is a JSON object, not list"),
            ("NaN", "NaN is no number"),
            ('{"cycles": 1, "cycles": 2}', "stands twice"),
            (b"\xff\xfe", "not UTF-8"),
            ("[" * 100_000, "nested too deeply"),
            ('{"cycles": ' + "9" * 5000 + "}", "a number too long"),
            (" " * 1_000_001, "larger than 1,000,000 bytes"),
        )
        for text, message in cases:
            with self.subTest(text=text[:20]), self.assertRaises(DrillError) as caught:
                parse(text)
            self.assertIn(message, str(caught.exception))

    def test_too_fine_a_division_is_refused(self) -> None:
        with self.assertRaises(DrillError) as caught:
            validate(changed("clicks.on", ["1+1/9973", "2+1/9967", "3+1/9949"]))
        self.assertEqual(caught.exception.code, "too_fine")


class SchemaTests(TestCase):
    def test_published_schemas_are_current(self) -> None:
        current = {f"drill-{version}": json_schema(version) for version in (1, 2, 3)} | {"free-1": free_schema()}
        for name, schema in current.items():
            with self.subTest(schema=name):
                published = json.loads((SCHEMAS / f"{name}.json").read_text(encoding="utf-8"))
                self.assertEqual(published, json.loads(json.dumps(schema)))

    def test_jsonschema_agrees(self) -> None:
        """The general-purpose library jsonschema takes and refuses the same files."""
        validator = jsonschema.Draft202012Validator(json_schema(1))
        validator.validate(plain())
        for path, value in (("tempo.bpm", 500), ("clicks.on", []), ("cycles", "x"), ("zap", 1)):
            self.assertFalse(validator.is_valid(changed(path, value)), path)

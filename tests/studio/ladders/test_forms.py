"""The rule of a ladder as words, and back: of ladders that are written down."""

from __future__ import annotations

from typing import Any

from django.http import QueryDict
from django.test import SimpleTestCase

from studio.ladders.forms import STEP, RuleForm, plain_of, words_of
from studio.ladders.models import Ladder
from studio.ladders.schools import SCHOOLS
from tests.studio.ladders.climbing import ladder, short


def kept(**changes: Any) -> Ladder:
    """Return a ladder as it is kept, with fields changed: ``spread_percent=4``, ``vary={…}``."""
    columns = {name: changes.pop(name) for name in ("place_ms", "fused_cycles", "spread_percent") if name in changes}
    return Ladder(name="Quarters", spec=ladder(**changes), **columns)


def form(row: Ladder, **words: str) -> RuleForm:
    """Return the form with some words changed."""
    data = QueryDict(mutable=True)
    data.update(words)
    return RuleForm(data, ladder=row)


class WordsTests(SimpleTestCase):
    def test_what_varies(self) -> None:
        words = words_of(kept())
        self.assertEqual(
            [words[name] for name in ("start", "to", "step", "kind", "name")], ["60", "80", "4", "streak", "Quarters"]
        )
        words = words_of(kept(vary={"what": "tempo", "from": 60, "to": 80, "by": "notch"}))
        self.assertEqual(words["step"], "notch")
        drill = short(silence={"kind": "fixed", "heard": 2, "silent": 1}, cycles=40)
        words = words_of(kept(drill=drill, vary={"what": "silence", "from": 1, "to": 8, "by": 1}))
        self.assertEqual([words[name] for name in ("start", "to", "step")], ["1", "8", "1"])
        self.assertEqual(words_of(kept(vary={"what": "notes", "steps": [1, 2, 4]}))["steps"], "1, 2, 4")

    def test_limits_and_what_is_not_asked(self) -> None:
        words = words_of(kept(spread_percent=4.5, fall=None))
        self.assertEqual([words[name] for name in ("spread", "place", "fused", "falls")], ["4.5", "", "", ""])
        words = words_of(kept(place_ms=20.0, fused_cycles=8, fall={"after": 2, "by": 3}, next_day={"back": 2}))
        self.assertEqual([words[name] for name in ("place", "fused", "falls", "fall_by", "back")], ["20", 8, 2, 3, 2])

    def test_said_again_as_it_is_it_is_the_same(self) -> None:
        for row in (kept(), kept(vary={"what": "notes", "steps": [1, 2, 4]}), kept(fall={"after": 2, "by": 3})):
            said = form(row)
            self.assertTrue(said.is_valid(), said.errors)
            assert said.made
            made, core = said.made, row.core
            self.assertEqual((made.drills, made.vary, made.rule), (core.drills, core.vary, core.rule))
            self.assertEqual((made.terms, made.name), (core.terms, core.name))

    def test_words_make_the_ladder(self) -> None:
        found = form(kept(), start="70", to="100", step="2.5", falls="3", fall_by="2", back="1", name="Eighths")
        self.assertTrue(found.is_valid(), found.errors)
        assert found.made
        self.assertEqual((found.made.values[0], found.made.values[1], found.made.name), (70, 72.5, "Eighths"))
        self.assertEqual((found.made.terms.fall_after, found.made.terms.fall_by, found.made.terms.back), (3, 2, 1))
        self.assertIsNone(plain_of({**found.cleaned_data, "falls": None}, kept())["fall"])
        self.assertEqual(found.limits["spread_percent"], found.cleaned_data["spread"])
        notes = form(kept(vary={"what": "notes", "steps": [1, 2]}), steps="1, 2  4")
        self.assertTrue(notes.is_valid(), notes.errors)
        assert notes.made
        self.assertEqual(list(notes.made.values), [1, 2, 4])

    def test_silences_are_whole_and_what_is_not_is_refused(self) -> None:
        drill = short(silence={"kind": "fixed", "heard": 2, "silent": 1}, cycles=40)
        row = kept(drill=drill, vary={"what": "silence", "from": 1, "to": 8, "by": 1})
        words = {**words_of(row), "start": 2.0, "to": 6.0, "step": "2"}
        self.assertEqual(plain_of(words, row)["vary"], {"what": "silence", "from": 2, "to": 6, "by": 2})
        self.assertEqual(plain_of({**words, "step": "1.5"}, row)["vary"]["by"], 1.5)
        self.assertFalse(form(row, step="1.5").is_valid())

    def test_what_is_wrong_stands_at_its_word(self) -> None:
        found = form(kept(), start="90", to="80")
        self.assertEqual(found.errors["to"], ["The last step can’t lie below the first."])
        self.assertEqual(found.fields["to"].widget.attrs["aria-invalid"], "true")
        self.assertNotIn("aria-invalid", found.fields["start"].widget.attrs)

    def test_what_is_wrong_is_what_is_said(self) -> None:
        silent = short(silence={"kind": "fixed", "heard": 2, "silent": 1}, cycles=40)
        of_silence = kept(drill=silent, vary={"what": "silence", "from": 1, "to": 8, "by": 1})
        band = kept(rule={"kind": "band", "low": 0.7, "high": 0.85})
        notes = kept(vary={"what": "notes", "steps": [1, 2]})
        for row, words, name, said in (
            (kept(), {"start": "390", "to": "500"}, "to", "Is 500, allowed is at most 400."),
            (kept(), {"start": "5"}, "start", "Is 5, allowed is at least 10."),
            (kept(), {"step": "0"}, "step", STEP),
            (kept(), {"step": "0.001"}, "step", STEP),
            (of_silence, {"step": "1.5"}, "step", "Is 1.5, allowed is a whole number."),
            (band, {"low": "80", "high": "70"}, "high", "More than the other one, please."),
            (notes, {"steps": "1, 9"}, "steps", "One to eight notes to the beat, please."),
        ):
            with self.subTest(words):
                self.assertEqual(form(row, **words).errors[name], [said])

    def test_another_school_brings_its_own_falls(self) -> None:
        found = form(kept(fall={"after": 2, "by": 3}), kind="edge")
        self.assertEqual(found.school.name, SCHOOLS["edge"].name)
        self.assertTrue(found.is_valid(), found.errors)
        assert found.made
        self.assertEqual(found.made.rule.kind, "edge")
        kinds = dict(form(kept(vary={"what": "notes", "steps": [1, 2]})).fields["kind"].choices)  # type: ignore[attr-defined]
        self.assertNotIn("week", kinds)
        self.assertIn("week", dict(form(kept()).fields["kind"].choices))  # type: ignore[attr-defined]

    def test_a_school_in_a_line(self) -> None:
        band = kept(rule={"kind": "band", "low": 0.7, "high": 0.85})
        self.assertEqual(SCHOOLS["band"].short(band.core.rule), "kept where 70 to 85 of 100 takes are clean")

    def test_the_sentence_of_a_school_counts(self) -> None:
        for nights, plural in (("1", ""), ("3", "s")):
            row = kept(rule={"kind": "edge", "clean": 4, "nights": 1})
            pieces = [one for one in form(row, nights=nights).sentence if isinstance(one, str)]
            self.assertEqual(pieces[-3:], [" night", plural, "."])

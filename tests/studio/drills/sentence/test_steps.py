"""What stands at hand beside the sentence, and what the sentence refuses in place."""

import re

from django.http import QueryDict
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from giusto.drill import validate
from studio.drills.origin import of_built_in
from studio.drills.sentence.codec import words_of
from studio.drills.sentence.form import SentenceForm
from studio.drills.sentence.note_words import note_word
from studio.drills.sentence.prose import facts, length_words
from studio.drills.sentence.steps import Link, feel_steps, marks, step_rows
from studio.drills.shelf import shelf
from tests.drills import plain, planned


def sentence(link: str, slug: str = "two-heard-two-silent") -> SentenceForm:
    """Return a checked sentence."""
    form = SentenceForm(QueryDict(f"drill={slug}&{link}"), origin=of_built_in(shelf()[slug]))
    form.is_valid()
    return form


def after(link: str) -> dict:
    """Return the drill that a link leads to."""
    return sentence(link).made.plain()


def steps_of(form: SentenceForm) -> list[Link]:
    """Return the steps at hand, and those that are folded."""
    rows = step_rows(form.made, form.words())
    return [*(step for row in rows for step in row.steps), *feel_steps(form.made, form.words())]


class ToolTests(SimpleTestCase):
    def test_steps_of_tempo(self) -> None:
        form = sentence("bpm=96")
        steps = {step.text: step for step in steps_of(form)}
        found = {text: after(step.query)["tempo"] for text, step in steps.items()}
        self.assertEqual(found["−5"]["bpm"], 91)
        self.assertEqual(found["+1"]["bpm"], 97)
        self.assertEqual(found["click half as fast, 48"], {"bpm": 48, "beat": "1/2"})
        self.assertEqual(found["click twice as fast, 192"], {"bpm": 192, "beat": "1/8"})
        self.assertEqual((steps["+1"].key, steps["+5"].key), ("+", ">"))

    def test_steps_stay_within_what_a_drill_may_have(self) -> None:
        form = sentence("bpm=398")
        self.assertEqual(after(steps_of(form)[3].query)["tempo"]["bpm"], 400)

    def test_a_click_half_as_fast_counts_in_as_often(self) -> None:
        """One click of a whole note tells no tempo; four do. And back again it is the cycle that it was."""
        found = {"beats": "4", "count_in": "1"}
        for text, expected in (
            ("half", ("2", "2")),
            ("half", ("1", "4")),
            ("twice", ("2", "2")),
            ("twice", ("4", "1")),
        ):
            form = sentence("&".join(f"{k}={v}" for k, v in found.items() if k != "drill"))
            step = next(s for s in steps_of(form) if f"click {text}" in s.text)
            found = {"beats": "4", "count_in": "1"} | dict(QueryDict(step.query).items())
            self.assertEqual((found["beats"], found["count_in"]), expected)

    def test_what_cannot_be_halved_is_not_offered(self) -> None:
        form = sentence("bpm=96&beats=5")
        self.assertFalse([s for s in steps_of(form) if "half" in s.text])

    def test_keys_for_silence_and_notes(self) -> None:
        form = sentence("")
        by_key = {step.key: after(step.query) for step in steps_of(form) if step.key}
        self.assertEqual(by_key["]"]["clicks"]["silence"]["silent"], 3)
        self.assertEqual(by_key["["]["clicks"]["silence"]["silent"], 1)
        self.assertEqual((by_key[","]["part"]["grid"], by_key["."]["part"]["grid"]), (1, 3))

    def test_touching_a_place_turns_it(self) -> None:
        form = sentence("")
        row = {mark.place: mark for beat in marks(form.made, form.words()) for mark in beat}
        self.assertEqual(list(row), ["1", "1+1/2", "2", "2+1/2", "3", "3+1/2", "4", "4+1/2"])
        without = after(row["1"].click_query)["clicks"]["on"]
        self.assertEqual(without, ["2", "3", "4"])
        added = after(row["2+1/2"].click_query)["clicks"]["on"]
        self.assertEqual(added, ["1", "2", "2+1/2", "3", "4"])
        self.assertEqual(after(row["1"].note_query)["part"]["play"][:2], ["1+1/2", "2"])

    def test_touching_all_again_is_said_plainly(self) -> None:
        form = sentence("on=marked&places=2,3,4")
        first = marks(form.made, form.words())[0][0]
        again = sentence(first.click_query)
        self.assertEqual(again.words()["on"], "every")

    def test_finer_places_than_the_notes_can_be_marked(self) -> None:
        form = sentence("marks=4")
        row = [m for beat in marks(form.made, form.words(), parts=form.cleaned_data["marks"]) for m in beat]
        self.assertEqual(len(row), 16)
        self.assertEqual(after(row[15].click_query)["clicks"]["on"][-1], "4+3/4")
        self.assertEqual(row[15].note_query, "")  # no note is asked for there

    def test_no_click_is_hidden_on_the_row(self) -> None:
        """Thirds and quarters of a beat beside eighths: more places than fit, so each click is one of its own."""
        drill = validate(plain(on=["1", "2+1/3", "4+3/4"], silence=None))
        row = [mark for beat in marks(drill, words_of(drill)) for mark in beat]
        self.assertEqual([mark.place for mark in row if mark.clicks], ["1", "2+1/3", "4+3/4"])
        self.assertEqual(len(row), 10)

    def test_long_cycles_show_their_beats_only(self) -> None:
        form = sentence("beats=64&grid=8")
        self.assertEqual([len(beat) for beat in marks(form.made, form.words())], [1] * 64)

    def test_note_words_follow_the_beat(self) -> None:
        """Common practice: two to a quarter are eighths, four to a half are eighths, three to 3/8."""
        self.assertEqual([note_word("1/4", g) for g in (1, 2, 3, 4)], ["quarters", "eighths", "triplets", "sixteenths"])
        self.assertEqual([note_word("1/2", g) for g in (1, 2, 4)], ["halves", "quarters", "eighths"])
        self.assertEqual([note_word("3/8", g) for g in (1, 3, 6)], ["dotted quarters", "eighths", "sixteenths"])

    def test_facts_beside_the_sheet(self) -> None:
        said = facts(planned())
        self.assertEqual(said[0], "4 silences of 5.6 s.")
        self.assertEqual(said[2], "A beat lasts 625\u00a0ms, a bar 2.5\u00a0s.")
        self.assertEqual(length_words(planned()), "2 bars = 8 beats = 5\u00a0s, four times; 45 s in all")
        self.assertEqual(facts(planned(bpm=120, on=["1"], silence=None))[3], "A click every 2\u00a0s, 30 a minute.")


class RefusedInPlaceTests(TestCase):
    def test_each_fault_stands_at_its_word_with_the_reason(self) -> None:
        cases = (
            ("groups=2%2B1", "groups", "The groups must add up to the beats of a bar."),
            ("groups=a", "groups", "Write it such as 4+2+2."),
            ("on=marked&places=", "places", "Mark at least one place"),
            ("on=marked&places=5", "places", "allowed are places in a bar of 4 beats"),
            ("on=marked&places=1,1", "places", "Name each place once."),
            ("on=marked&places=one", "places", "Write it such as 1, 2+1/2."),
            ("drop=growing&silent=4&longest=2", "longest", "allowed is 4 (clicks.silence.silent) or more"),
            ("drop=random&chance=101", "chance", "100 at most, please."),
            ("drop=random&most=0", "most", "1 at least, please."),
            ("drop=random&seed=-1", "seed", "1 at least, please."),
            ("shift=moving&shift_by=1/1", "shift_by", "allowed is a part of a beat below 1"),
            ("shift=moving&shift_by=0/4", "shift_by", "A part of a beat such as 1/4, please."),
            ("play=places&notes=1%2B1/3", "notes", "Name places that the notes to the beat have"),
            ("play=places", "notes", "Name at least one place to play"),
            ("play=turns&turns=x:1", "turns", "Write it such as 4: 1; 4: 1, 3."),
            ("play=turns&turns=0:1", "turns", "allowed is at least 1"),
            ("play=turns&turns=", "turns", "Name at least one place to play"),
            ("count_in=9", "count_in", "8 at most, please."),
            ("beat=9/7", "beat", "not one of the available choices"),
            ("marks=99", "marks", "not one of the available choices"),
        )
        for link, word, reason in cases:
            with self.subTest(link):
                page = self.client.get(f"{reverse('drills:set')}?{link}")
                self.assertContains(page, reason, status_code=422)
                bad = re.search(r'data-bad="([^"]*)"', page.content.decode())
                self.assertEqual(bad and bad[1].split(), [word])
                self.assertNotContains(page, "Traceback", status_code=422)

    def test_words_that_do_not_count_are_not_refused(self) -> None:
        page = self.client.get(f"{reverse('drills:set')}?drop=no&heard=0&chance=x&places=nonsense&turns=%3F")
        self.assertEqual(page.status_code, 200)


class TapsTests(TestCase):
    def tapped(self, seconds: str) -> dict:
        return self.client.get(reverse("drills:taps"), {"s": seconds}).json()

    def test_tempo_and_how_sure(self) -> None:
        found = self.tapped("0,0.5,1.0,1.2,1.5,2.0,2.5")
        self.assertEqual(found, {"bpm": 120, "text": "120.0, between 120.0 and 120.0, 6 taps, 1 left out."})
        self.assertEqual(self.tapped("0")["bpm"], None)

    def test_nonsense_is_refused(self) -> None:
        for seconds in ("", "a,b", "1,0", "nan,1", "0,1e400"):
            answer = self.client.get(reverse("drills:taps"), {"s": seconds})
            self.assertEqual(answer.status_code, 422, seconds)
            self.assertTrue(answer.json()["error"])

"""How a ladder's rungs are laid out, by hand."""

from typing import Any
from unittest import TestCase

from pydantic import TypeAdapter

from giusto.errors import DrillError
from giusto.practice.ladder.rungs import MOST_RUNGS, Vary, rungs
from tests.drills import fixed, plain

VARY: TypeAdapter[Any] = TypeAdapter(Vary)


def laid_out(vary: dict[str, Any], drill: dict[str, Any] | None = None) -> list[tuple[float | None, Any]]:
    """Return the rungs of a ladder of some drill."""
    return rungs(VARY.validate_python(vary), drill or plain())


class RungTests(TestCase):
    def test_tempi_with_the_last_always_there(self) -> None:
        for by, found in ((4, [60, 64, 68]), (3.5, [60, 63.5, 67, 68]), (20, [60, 68]), (0.1, None)):
            rows = laid_out({"what": "tempo", "from": 60, "to": 68, "by": by})
            with self.subTest(by):
                self.assertEqual([value for value, _ in rows], found or [round(60 + k / 10, 1) for k in range(81)])
                self.assertEqual([drill.tempo.bpm for _, drill in rows], [value for value, _ in rows])
        self.assertEqual([value for value, _ in laid_out({"what": "tempo", "from": 60, "to": 60, "by": 1})], [60])

    def test_tempi_by_the_notches_of_a_metronome_of_old(self) -> None:
        """The common scale of tempi (common practice): 60, 63, 66, 69, 72, 76; what lies between goes to the next."""
        self.assertEqual(
            [value for value, _ in laid_out({"what": "tempo", "from": 60, "to": 75, "by": "notch"})],
            [60, 63, 66, 69, 72, 75],
        )

    def test_silences_and_notes(self) -> None:
        silent = laid_out({"what": "silence", "from": 1, "to": 6, "by": 2}, plain(silence=fixed(2, 9)))
        self.assertEqual([drill.clicks.silence.silent for _, drill in silent], [1, 3, 5, 6])
        notes = laid_out({"what": "notes", "steps": [1, 2, 4, 3]})
        self.assertEqual([drill.part.grid for _, drill in notes], [1, 2, 4, 3])

    def test_drills_have_no_value_and_each_names_its_own_faults(self) -> None:
        rows = laid_out({"what": "drills", "steps": [plain(bpm=60), plain(bpm=90)]}, {})
        self.assertEqual([(value, drill.tempo.bpm) for value, drill in rows], [(None, 60), (None, 90)])
        with self.assertRaises(DrillError) as caught:
            laid_out({"what": "drills", "steps": [plain(), plain(bpm=9999)]})
        self.assertEqual(caught.exception.faults[0].path, "vary.steps[1].tempo.bpm")

    def test_what_cannot_be_laid_out_is_refused_at_its_place(self) -> None:
        for vary, drill, path in (
            ({"what": "silence", "from": 1, "to": 2, "by": 1}, plain(silence=None), "drill.clicks.silence"),
            ({"what": "tempo", "from": 60, "to": 70, "by": 0.01}, plain(), "vary.by"),
            ({"what": "tempo", "from": 60, "to": 70, "by": 1}, plain(cycles=0), "drill.cycles"),
        ):
            with self.subTest(path), self.assertRaises(DrillError) as caught:
                laid_out(vary, drill)
            self.assertEqual(caught.exception.faults[0].path, path)
        most = laid_out({"what": "tempo", "from": 60, "to": 159.9, "by": 0.1})
        self.assertEqual(len(most), MOST_RUNGS)

"""What a recording's reading says of itself, and what its times can't tell is left out."""

from unittest import TestCase

from giusto.hearing.source import Source
from giusto.reading.recorded import with_source
from giusto.simulation.player import SimulatedPlayer
from tests.giusto.takes import taken


class RecordedTests(TestCase):
    def test_the_place_is_left_out_where_the_notes_made_time_zero(self) -> None:
        reading = taken(SimulatedPlayer(place_ms=-20))
        assert reading.heard.mean_error_ms is not None
        for by, is_known in (("bleed", True), ("clock", True), ("file", True), ("notes", False), ("count", False)):
            source = Source("sound", 1.0, (999.0, 1001.0), None, None, by)  # type: ignore[arg-type]
            found = with_source(reading, source, ("one remark",))
            with self.subTest(by):
                self.assertEqual(found.heard.mean_error_ms is not None, is_known)
                self.assertEqual(found.heard.ci95_ms is not None, is_known)
                self.assertEqual(found.heard.sd_ms, reading.heard.sd_ms)  # differences stay
                self.assertEqual((found.source, found.notes[0]), (source, "one remark"))
                self.assertEqual(found.silences, reading.silences)

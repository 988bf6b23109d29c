"""Attempts as CSV: read, refused line by line, written back the same."""

from datetime import UTC, datetime, timedelta, timezone
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from giusto.errors import GiustoError
from giusto.practice.ladder.attempts_csv import Attempt, moment, parse_attempts, write_attempts

AT = "2026-11-26T18:40:00+01:00"
HOUR = timezone(timedelta(hours=1))
ATTEMPTS = st.builds(
    Attempt,
    at=st.datetimes(datetime(1970, 1, 2), datetime(2199, 12, 30)).map(lambda at: at.replace(microsecond=0, tzinfo=UTC)),  # noqa: DTZ001
    rung=st.integers(1, 9),
    clean=st.booleans(),
    minutes=st.integers(0, 9000).map(lambda thousandths: thousandths / 1000),
    off=st.booleans(),
    chance=st.none() | st.integers(0, 100).map(lambda hundredths: hundredths / 100),
)


class AttemptTests(TestCase):
    def test_columns_that_may_be_there_and_an_open_attempt(self) -> None:
        text = f"at,rung,clean,minutes,chance,off\n{AT},2,,2.5,.4,\n2026-11-26 18:45Z,3,1,0,,1\n"
        first, second = parse_attempts(text, rungs=3)
        self.assertEqual((first.clean, first.chance, first.off, first.cleanness), (None, 0.4, False, 0.4))
        self.assertEqual((second.clean, second.chance, second.off, second.cleanness), (True, None, True, 1.0))
        self.assertEqual((first.at, first.day.isoformat()), (datetime(2026, 11, 26, 18, 40, tzinfo=HOUR), "2026-11-26"))

    def test_the_day_is_the_one_that_was_written(self) -> None:
        late = Attempt(moment("2026-11-26T23:30:00-05:00", "at"), 1, True, 1.0)
        self.assertEqual(late.day.isoformat(), "2026-11-26")  # the 27th already in UTC

    def test_each_fault_has_its_line(self) -> None:
        header = "at,rung,clean,minutes"
        for text, told in (
            ("at,rung,clean\n", "line 1 must be"),
            (f"{header},off,off\n", "line 1 must be"),
            (f"{header},more\n", "line 1 must be"),
            (f"{header}\n{AT},1,1\n", "line 2 has 3 fields, allowed are 4"),
            (f"{header}\n{AT},4,1,1\n", 'line 2: rung is "4", allowed is 1 to 3'),
            (f"{header}\n{AT},0,1,1\n", 'line 2: rung is "0", allowed is 1 to 3'),
            (f"{header}\n{AT},1,yes,1\n", 'line 2: clean is "yes", allowed is 1 or 0'),
            (f"{header}\n{AT},1,,1\n", 'line 2: clean is "", allowed is 1 or 0'),
            (f"{header}\n{AT},1,1,-1\n", 'line 2: minutes is "-1"'),
            (f"{header}\n2026-11-26T18:40,1,1,1\n", "line 2: at is .* with an offset"),
            (f"{header}\n2026-02-30T18:40Z,1,1,1\n", "line 2: at is"),
            (f"{header},chance\n{AT},1,1,1,1.01\n", 'line 2: chance is "1.01", allowed is 0 to 1'),
            (f"{header},off\n{AT},1,1,1,2\n", 'line 2: off is "2", allowed is 1 or 0'),
            (f"{header}\n{AT},1,1,1\n2026-11-26T17:39:59Z,1,1,1\n", "must ascend: .* comes after .*, attempt 2"),
        ):
            with self.subTest(told), self.assertRaisesRegex(GiustoError, told):
                parse_attempts(text, rungs=3)

    @given(st.lists(ATTEMPTS, max_size=5))
    def test_what_is_written_is_read_as_the_same(self, attempts: list[Attempt]) -> None:
        ordered = sorted(attempts, key=lambda one: one.at)
        self.assertEqual(parse_attempts(write_attempts(ordered), rungs=9), ordered)

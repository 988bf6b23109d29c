"""Which sound is taken in: the limits themselves are allowed, a step past each is said with what is."""

from unittest import TestCase

from giusto.hearing.allowed import HIGHEST_HZ, LOWEST_HZ, MOST_CHANNELS, MOST_S, allowed_sound


class AllowedTests(TestCase):
    def test_the_limits_are_allowed(self) -> None:
        for sound in ((LOWEST_HZ, 1, 1.0), (HIGHEST_HZ, MOST_CHANNELS, float(MOST_S))):
            self.assertEqual(allowed_sound(*sound), "")

    def test_what_lies_beyond_says_what_is_allowed(self) -> None:
        for sound, told in (
            ((7_999, 1, 1.0), "has 7999 samples a second, allowed are 8,000 to 192,000"),
            ((192_001, 1, 1.0), "has 192001 samples a second, allowed are 8,000 to 192,000"),
            ((8_000, 33, 1.0), "has 33 channels, allowed are 32"),
            ((8_000, 1, 14_401.0), "lasts 14401 s, allowed are 14,400"),
        ):
            self.assertEqual(allowed_sound(*sound), f"the recording {told}")

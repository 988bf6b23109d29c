"""The examples in docstrings are tests."""

import doctest
import importlib
import pkgutil
from unittest import TestCase

import giusto

WITH_WORDS = ("studio.reach.words", "studio.sheet.words", "studio.readings.words", "studio.drills.sentence.note_words")


class ExampleTests(TestCase):
    def test_every_example_gives_what_it_says(self) -> None:
        names = [module.name for module in pkgutil.walk_packages(giusto.__path__, "giusto.")]
        tried = 0
        for name in (*names, *WITH_WORDS):
            with self.subTest(name):
                result = doctest.testmod(importlib.import_module(name))
                self.assertEqual(result.failed, 0)
                tried += result.attempted
        self.assertGreater(tried, 40)

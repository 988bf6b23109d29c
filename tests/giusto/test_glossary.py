"""The glossary's thresholds are the code's."""

import re
from importlib import import_module
from pathlib import Path
from unittest import TestCase

GLOSSARY = Path(__file__).parents[2] / "docs/glossary.md"
ROW = re.compile(r"^\| `([a-z_.]+)\.([A-Z_]+)` \| ([0-9.]+) \|", re.MULTILINE)


class ThresholdTests(TestCase):
    def test_each_is_what_the_table_says(self) -> None:
        rows = ROW.findall(GLOSSARY.read_text(encoding="utf-8"))
        self.assertGreater(len(rows), 20)
        for module, name, value in rows:
            with self.subTest(f"{module}.{name}"):
                self.assertEqual(float(getattr(import_module(f"giusto.{module}"), name)), float(value))

    def test_no_word_stands_twice(self) -> None:
        words = re.findall(r"^\| ([a-z][^|`]*) \|", GLOSSARY.read_text(encoding="utf-8"), re.MULTILINE)
        words = [word for word in words if word not in ("word", "threshold")]
        self.assertEqual(sorted(words), sorted(set(words)))

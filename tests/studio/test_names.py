"""A name stands for one thing: whoever reads `Line` need not ask which."""

import ast
from collections import defaultdict
from pathlib import Path
from unittest import TestCase

SOURCE = Path(__file__).parents[2] / "src"
# Named by Django, once a file or once a model.
OF_THE_FRAMEWORK = {"Migration", "Command", "Meta", "Media"}


class NameTests(TestCase):
    def test_no_two_classes_share_a_name_but_what_the_core_has_and_its_row(self) -> None:
        places: defaultdict[str, list[str]] = defaultdict(list)
        for path in SOURCE.rglob("*.py"):
            for node in ast.parse(path.read_text()).body:
                if isinstance(node, ast.ClassDef) and node.name not in OF_THE_FRAMEWORK and node.name[0] != "_":
                    places[node.name].append(path.relative_to(SOURCE).as_posix())
        self.assertGreater(len(places), 300)
        for name, found in sorted(places.items()):
            with self.subTest(name, found=found):
                core = [one for one in found if one.startswith("giusto/")]
                rows = [one for one in found if one.endswith("/models.py")]
                self.assertTrue(len(found) == 1 or (len(found) == 2 and len(core) == len(rows) == 1))

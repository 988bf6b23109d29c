"""Each module of the core is tested: by a file or an import of its name, or by the door of the room that shows it."""

import ast
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).parents[2]
INSIDE = {"giusto.reading.measured"}  # what ``analyse`` holds while it reads: by test_analyse


def imported(path: Path, package: str = "") -> set[str]:
    """Return the modules that a file imports, and the names that it takes from them as if they were modules."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            module = node.module or package
            found |= {module, *(f"{module}.{alias.name}" for alias in node.names)}
    return found


class EveryModuleTests(TestCase):
    def test_each_is_tested_by_its_name_or_by_its_rooms_door(self) -> None:
        source = ROOT / "src"
        by_tests = set().union(*(imported(path) for path in (ROOT / "tests/giusto").rglob("*.py")))
        by_file = {path.stem.removeprefix("test_") for path in (ROOT / "tests/giusto").rglob("test_*.py")}
        doors = {
            ".".join(door.parent.relative_to(source).parts): door for door in (source / "giusto").rglob("__init__.py")
        }
        shown = set(by_tests)
        while opened := set(doors) & shown:  # a room's door may show another room's
            shown |= set().union(*(imported(doors.pop(room), room) for room in opened))
        modules = [path for path in (source / "giusto").rglob("*.py") if path.name != "__init__.py"]
        self.assertGreater(len(modules), 100)
        for path in modules:
            name = ".".join(path.relative_to(source).with_suffix("").parts)
            with self.subTest(name):
                self.assertTrue(name in shown or path.stem in by_file or name in INSIDE)

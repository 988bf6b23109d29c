"""The script of the two commands."""

import re
import shutil
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).parents[2]


class LinkedEnvironmentTests(TestCase):
    def test_an_environment_of_another_checkout_is_left_alone(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            other, here = Path(folder) / "other", Path(folder) / "here"
            (other / ".venv").mkdir(parents=True)
            (other / ".venv/kept").write_text("kept", encoding="utf-8")
            here.mkdir()
            shutil.copy(ROOT / "giusto", here)
            shutil.copytree(ROOT / "requirements", here / "requirements")
            (here / ".venv").symlink_to(other / ".venv")
            done = subprocess.run([here / "giusto", "start"], capture_output=True, text=True, check=False)
            self.assertEqual(done.returncode, 2)
            self.assertIn("giusto: .venv is a link to", done.stderr)
            self.assertEqual((other / ".venv/kept").read_text(encoding="utf-8"), "kept")


class LockTests(TestCase):
    def test_the_tests_environment_holds_the_sites(self) -> None:
        """`giusto` takes the one for the other, version for version."""
        pins = {name: set(re.findall(r"^\S+==\S+", self.lock(name), re.MULTILINE)) for name in ("run", "test")}
        self.assertGreater(len(pins["run"]), 20)
        self.assertEqual(pins["run"] - pins["test"], set())

    def lock(self, name: str) -> str:
        """Return a lock file."""
        return (ROOT / f"requirements/{name}.txt").read_text(encoding="utf-8")

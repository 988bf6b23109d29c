"""What the site's processes are told, and what they are not; where they work with files; what start says of itself."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from types import SimpleNamespace
from unittest import TestCase
from unittest.mock import patch

from launch import roles, tables, users
from launch.place import ROOT
from studio.secret import secret
from studio.spool import own_spool


class SecretTests(TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for module, name in ((tables, "OWN"), (users, "RUN"), (users, "SPOOL"), (users, "RECORDINGS")):
            self.enterContext(patch.object(module, name, self.folder / name.lower()))
        self.enterContext(patch.object(tables, "SECRETS", self.folder / "run/secrets.json"))
        self.enterContext(patch.object(users, "make_own_user"))
        (self.folder / "own").mkdir()
        self.cluster = SimpleNamespace(folder=self.folder / "cluster", port=5)
        self.environment = tables.site_environment(self.cluster)  # type: ignore[arg-type]

    def test_no_secret_is_in_the_environment(self) -> None:
        """Another process of the same user, and on some systems any, reads ``/proc/PID/environ``."""
        known = {tables.secret_key(), *roles.passwords(self.cluster).values()}  # type: ignore[arg-type]
        self.assertEqual(len(known), 3)
        for name, value in self.environment.items():
            self.assertFalse(any(one in value for one in known), name)
        self.assertEqual(self.environment["GIUSTO_DB_USER"], roles.SITE)

    def test_they_are_in_a_file_for_one_pair_of_eyes_and_the_owner_s_are_not(self) -> None:
        file = self.folder / "run/secrets.json"
        self.assertEqual(file.stat().st_mode & 0o777, 0o600)
        found = json.loads(file.read_text())
        self.assertEqual(found["GIUSTO_DB_PASSWORD"], roles.passwords(self.cluster)[roles.SITE])  # type: ignore[arg-type]
        self.assertNotIn(roles.passwords(self.cluster)[roles.OWNER], file.read_text())  # type: ignore[arg-type]
        with patch.dict(os.environ, {"GIUSTO_SECRETS": str(file)}):
            self.assertEqual(secret("GIUSTO_SECRET_KEY"), tables.secret_key())

    def test_folders_are_for_whoever_writes_there(self) -> None:
        for name in ("run", "spool", "recordings"):
            self.assertEqual((self.folder / name).stat().st_mode & 0o777, 0o700)


class SpoolTests(TestCase):
    def test_what_a_dead_process_left_goes_and_what_a_living_one_has_stays(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        dead = subprocess.Popen([sys.executable, "-c", ""])
        dead.wait()
        for number in (dead.pid, os.getppid()):
            (folder / "spool" / str(number)).mkdir(parents=True)
        before = tempfile.tempdir
        self.addCleanup(setattr, tempfile, "tempdir", before)
        with patch.dict(os.environ, {"GIUSTO_RUN": str(folder)}):
            own_spool()
        there = {path.name for path in (folder / "spool").iterdir()}
        self.assertEqual(there, {str(os.getppid()), str(os.getpid())})
        self.assertEqual(tempfile.gettempdir(), str(folder / "spool" / str(os.getpid())))

    def test_a_process_that_is_not_the_site_s_keeps_the_system_s_folder(self) -> None:
        before = tempfile.tempdir
        with patch.dict(os.environ):
            os.environ.pop("GIUSTO_RUN", None)
            own_spool()
        self.assertEqual(tempfile.tempdir, before)


class StartTests(TestCase):
    def test_it_takes_no_arguments_and_says_so_in_a_line(self) -> None:
        command = [sys.executable, "-m", "launch.start", "--port"]
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stderr.count("\n")), (1, 1))
        self.assertIn("GIUSTO_PORT chooses the port", done.stderr)

"""Where a process is waited for."""

import io
import os
import pwd
import signal
import subprocess
import sys
import tempfile
import time
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from launch import place, studio, users
from launch.place import end_process


class EndProcessTests(TestCase):
    def test_a_zombie_has_ended(self) -> None:
        """A child that nobody has asked for its end stays in the table; waiting for it took 30 s once."""
        child = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
        self.addCleanup(child.wait)
        began = time.monotonic()
        end_process(child.pid, signal.SIGTERM)
        self.assertLess(time.monotonic() - began, 15)
        self.assertIsNotNone(child.poll())


class FileTests(TestCase):
    def test_a_log_is_for_its_owner_and_begins_anew_when_large(self) -> None:
        with tempfile.TemporaryDirectory() as folder, patch.multiple(place, LOG=Path(folder), LARGE_LOG=10):
            for text in (b"twelve bytes", b"more"):
                with place.log_of("web") as log:
                    log.write(text)
            log, old = Path(folder) / "web.log", Path(folder) / "web.log.1"
            self.assertEqual((log.read_bytes(), old.read_bytes()), (b"more", b"twelve bytes"))
            self.assertEqual(log.stat().st_mode & 0o777, 0o600)

    def test_a_secret_is_written_whole_or_not_at_all(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "key"
            path.touch()
            place.write_whole(path, "secret")
            self.assertEqual((path.read_text(), path.stat().st_mode & 0o777), ("secret", 0o600))
            self.assertEqual(list(Path(folder).iterdir()), [path])


class UnprivilegedTests(TestCase):
    def test_roots_web_server_works_as_somebody_else(self) -> None:
        """The checkout's owner, or nobody; root's own only where they can't read it."""
        user = users.site_user()
        if os.geteuid() != 0:
            self.assertIsNone(user)
        elif user:
            self.assertNotEqual(user.pw_uid, 0)

    def test_where_nobody_else_may_enter_it_is_said_and_a_studio_does_not_start(self) -> None:
        """A checkout in a folder of root's alone, such as root's own: no part could run as anybody else."""
        with tempfile.TemporaryDirectory() as folder, patch.object(users, "ROOT", Path(folder) / "giusto"):
            wsgi = Path(folder) / "giusto/src/studio/wsgi.py"
            wsgi.parent.mkdir(parents=True)
            wsgi.touch()
            (Path(folder) / "giusto/giusto").touch()
            if os.geteuid() != 0:
                self.assertEqual(users.why_root(), "")
                return
            self.assertIsNone(users.site_user())
            self.assertIn(f"no other user may enter {folder}: put this checkout", users.why_root())
            with (
                patch.object(studio, "why_root", users.why_root),
                patch.object(studio, "make_own_user"),
                patch.object(sys, "argv", ["studio"]),
                self.assertRaises(SystemExit),
                redirect_stdout(io.StringIO()) as said,
                redirect_stderr(said),
            ):
                studio.main()
            self.assertIn("a studio never runs as root", said.getvalue())

    def test_who_may_read(self) -> None:
        nobody = pwd.getpwnam("nobody")
        with tempfile.TemporaryDirectory() as folder:  # made for its owner alone
            path = Path(folder)
            self.assertFalse(users._is_open_to(nobody, path))
            path.chmod(0o755)
            self.assertTrue(users._is_open_to(nobody, path))
            (path / "file").touch(mode=0o600)
            self.assertFalse(users._is_open_to(nobody, path / "file"))
            self.assertTrue(users._is_open_to(pwd.getpwuid(os.geteuid()), path / "file"))

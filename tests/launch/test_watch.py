"""Parts that die or fall silent, and what becomes of the others."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from launch import watch
from launch.watch import Keeper, Told, pause_after


class Sleeper:
    """A part that lives until it is killed; after so many starts, it can't be started any more."""

    def __init__(self, starts: int = 1000) -> None:
        self.process: subprocess.Popen[bytes] | None = None
        self.starts, self.started, self.alive = starts, 0, True

    def start(self) -> None:
        self.started += 1
        if self.started > self.starts:
            raise SystemExit(1)
        command = [sys.executable, "-c", "import time; time.sleep(600)"]
        self.process = subprocess.Popen(command, start_new_session=True)

    def stop(self) -> None:
        if self.process and self.process.poll() is None:
            self.process.kill()
            self.process.wait()

    def lives(self) -> bool:
        return self.alive

    def kill(self) -> None:
        """Kill it as a crash would."""
        assert self.process
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()


class KeeperTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.told = Told(Path(folder.name) / "down.json")
        self.stopping = threading.Event()
        self.enterContext(patch.object(watch, "LOOK_S", 0.01))
        self.enterContext(patch.object(watch, "ASKED_EVERY_S", 0.01))
        self.enterContext(patch("launch.watch.say"))

    def keep(self, name: str, part: Sleeper) -> Keeper:
        """Start a part and look after it until the test ends."""
        part.start()
        keeper = Keeper(name, part, self.stopping, self.told)
        keeper.start()
        self.addCleanup(keeper.end)
        self.addCleanup(self.stopping.set)
        return keeper

    def wait_until(self, is_so: Callable[[], bool]) -> None:
        """Wait until something is so; fail where it does not come to be."""
        deadline = time.monotonic() + 30
        while not is_so():
            self.assertLess(time.monotonic(), deadline, "it did not come to be")
            time.sleep(0.01)

    def test_what_dies_is_started_again(self) -> None:
        part = Sleeper()
        keeper = self.keep("worker", part)
        first = part.process
        part.kill()
        self.wait_until(lambda: part.started == 2 and keeper.part.process is not first)
        self.wait_until(lambda: json.loads(self.told.file.read_text()) == [])

    def test_six_deaths_end_nothing_else(self) -> None:
        """A worker that died six times within a minute ended all of Giusto once."""
        worker, web = Sleeper(), Sleeper()
        with patch.object(watch, "pause_after", lambda deaths: 0.0):
            self.keep("worker", worker)
            self.keep("web server", web)
            for death in range(7):
                self.wait_until(lambda count=death + 1: worker.started == count and worker.process.poll() is None)  # type: ignore[misc, union-attr]
                worker.kill()
            self.wait_until(lambda: worker.started == 8)
        self.assertEqual(web.started, 1)
        self.assertFalse(self.stopping.is_set())

    def test_what_can_t_be_started_is_tried_again_and_told(self) -> None:
        worker = Sleeper(starts=1)
        with patch.object(watch, "pause_after", lambda deaths: 0.01):
            self.keep("worker", worker)
            worker.kill()
            self.wait_until(lambda: worker.started > 4)
        self.assertEqual(json.loads(self.told.file.read_text()), ["worker"])

    def test_what_gives_no_sign_of_life_is_replaced(self) -> None:
        part = Sleeper()
        with patch.object(watch, "SILENT_S", 0.3):
            self.keep("web server", part)
            time.sleep(0.5)
            self.assertEqual(part.started, 1)  # it answers
            part.alive = False
            self.wait_until(lambda: part.started == 2)
            part.alive = True

    def test_the_end_comes_while_a_part_is_being_started(self) -> None:
        part = Sleeper()
        keeper = self.keep("worker", part)
        with patch.object(watch, "pause_after", lambda deaths: 60.0):
            part.kill()
            self.wait_until(lambda: keeper.deaths == 1)
            began = time.monotonic()
            self.stopping.set()
            keeper.end()
        self.assertLess(time.monotonic() - began, 20)
        self.assertEqual(part.started, 1)

    def test_pauses_grow_to_a_minute(self) -> None:
        self.assertEqual([pause_after(deaths) for deaths in range(9)], [0, 1, 2, 4, 8, 16, 32, 60, 60])

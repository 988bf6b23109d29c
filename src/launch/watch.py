"""Parts that are started again when they die or fall silent, each by itself: no part's deaths end the others."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import subprocess
import threading
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Protocol

from launch.place import LOG, say, write_whole

WELL_S = 60.0  # ours: who has lived so long is well again
LONGEST_PAUSE_S = 60.0
SILENT_S = 60.0
ASKED_EVERY_S = 5.0
LOOK_S = 0.2


class WatchedPart(Protocol):
    """A process of Giusto's."""

    process: subprocess.Popen[bytes] | None

    def start(self) -> None:
        """Start it and wait until it works; OSError or SystemExit where it doesn't."""

    def stop(self) -> None:
        """End it, if it runs."""

    def lives(self) -> bool | None:
        """Whether it gives a sign of life just now; None where it is not asked."""


class Keeper(threading.Thread):
    """Keeps one part running until told to stop.

    Parameters
    ----------
    name : str
        What it is called at the terminal and on the page.
    part : WatchedPart
    stopping : threading.Event
    told : Told
        Where it is written down that the part is down.
    """

    def __init__(self, name: str, part: WatchedPart, stopping: threading.Event, told: Told) -> None:
        super().__init__(name=name, daemon=True)
        self.part, self.stopping, self.told = part, stopping, told
        self.deaths = 0
        self.born = self.heard = self.asked = time.monotonic()

    def run(self) -> None:
        """Look after the part."""
        while not self.stopping.wait(LOOK_S):
            if self._runs():
                self._listen()
            else:
                self._start_again()

    def end(self) -> None:
        """End the part, told to stop before: also one that is just being started again."""
        self.part.stop()
        if self.is_alive():
            self.join()
            self.part.stop()

    def _runs(self) -> bool:
        return self.part.process is not None and self.part.process.poll() is None

    def _listen(self) -> None:
        """Ask for a sign of life now and then; end what has given none for too long."""
        now = time.monotonic()
        if self.deaths and now - self.born > WELL_S:
            self.deaths = 0
        if now - self.asked < ASKED_EVERY_S:
            return
        self.asked = now
        if self.part.lives() is not False:
            self.heard = time.monotonic()
        elif now - self.heard > SILENT_S and self.part.process:
            say(f"the {self.name} has given no sign of life for {SILENT_S:.0f} s: ending it")
            with contextlib.suppress(ProcessLookupError):
                os.killpg(self.part.process.pid, signal.SIGKILL)
            self.part.process.wait()

    def _start_again(self) -> None:
        """Start what died: at once, then after a longer and longer pause."""
        pause = pause_after(self.deaths)
        self.deaths += 1
        again = f"starting it again in {pause:.0f} s" if pause else "starting it again"
        say(f"the {self.name} ended unexpectedly: {again} (see {LOG})")
        self.told.down(self.name)
        if self.stopping.wait(pause):
            return
        try:
            self.part.start()
        except (OSError, SystemExit) as error:  # one more death, not the end
            if not self.stopping.is_set() and str(error) not in ("", "1"):
                say(str(error))
            return
        self.born = self.heard = self.asked = time.monotonic()
        self.told.up(self.name)


class Told:
    """Which parts are down, written where the pages find it."""

    def __init__(self, file: Path) -> None:
        self.file, self.names, self.lock = file, set[str](), threading.Lock()

    def down(self, name: str) -> None:
        """Write down that a part does not run."""
        with self.lock:
            self.names.add(name)
            self._write()

    def up(self, name: str) -> None:
        """Write down that a part runs again."""
        with self.lock:
            self.names.discard(name)
            self._write()

    def _write(self) -> None:
        with contextlib.suppress(OSError):  # a full disk, say: the terminal tells it all the same
            write_whole(self.file, json.dumps(sorted(self.names)))
            self.file.chmod(0o644)


def pause_after(deaths: int) -> float:
    """Return how long to wait after so many deaths in a row, in s.

    Examples
    --------
    >>> [pause_after(deaths) for deaths in (0, 1, 2, 6, 7, 100)]
    [0.0, 1.0, 2.0, 32.0, 60.0, 60.0]
    """
    return min(LONGEST_PAUSE_S, 2.0 ** min(deaths - 1, 10)) if deaths else 0.0


def watch(parts: Sequence[tuple[str, WatchedPart]], stopping: threading.Event, told: Told) -> None:
    """Keep parts running until told to stop, then end them in the opposite order."""
    keepers = [Keeper(name, part, stopping, told) for name, part in parts]
    for keeper in keepers:
        keeper.start()
    stopping.wait()
    for keeper in reversed(keepers):
        keeper.end()

"""Looks on while a worker works: gives its signs of life, writes down what it did, ends what takes too long."""

from __future__ import annotations

import logging
import os
import threading
import time
from pathlib import Path
from typing import Any

from django_tasks.signals import task_finished, task_started

from studio.memory import resident_mb

LOOK_S = 1.0
LONGEST_S = 1800.0  # ours, of one task: the longest recording allowed takes a few minutes
MOST_MB = 1500  # ours, of the whole process; so much sound is never held at once
TOO_MUCH = 70  # exit code
log = logging.getLogger("studio.work")


class Watchman(threading.Thread):
    """A thread beside the work.

    Parameters
    ----------
    sign : Path or None
        File on which a number grows as long as this process lives.
    """

    def __init__(self, sign: Path | None = None) -> None:
        super().__init__(name="watchman", daemon=True)
        self.sign = sign
        self.done = 0
        self.at: tuple[str, float] | None = None
        task_started.connect(self.note_start)
        task_finished.connect(self.note_end)

    def run(self) -> None:
        """Look on."""
        count = 0
        while True:
            count += 1
            self.look(count)
            time.sleep(LOOK_S)

    def look(self, count: int) -> None:
        """Give a sign of life, and end this process where its task takes too long or too much."""
        if self.sign:
            try:
                self.sign.write_text(f"{os.getpid()} {count}", encoding="ascii")
            except OSError as error:  # a full disk is no death
                log.warning("no sign of life can be written: %s", error.strerror)
        if (at := self.at) is None:
            return
        what, began = at
        took_s, megabytes = time.monotonic() - began, resident_mb()
        if took_s > LONGEST_S or megabytes > MOST_MB:
            log.error(
                "%s: ended after %.0f s with %.0f MB of memory, more than a task may have", what, took_s, megabytes
            )
            logging.shutdown()
            os._exit(TOO_MUCH)

    def note_start(self, *, task_result: Any, **_: object) -> None:
        """Remember what is being done, and since when."""
        self.at = (_called(task_result), time.monotonic())

    def note_end(self, *, task_result: Any, **_: object) -> None:
        """Write down what was done, how it ended and how long it took."""
        what, began = self.at or (_called(task_result), time.monotonic())
        self.at = None
        self.done += 1
        how = str(task_result.status).lower()
        log.info("%s: %s in %.1f s", what, how, time.monotonic() - began)
        for error in task_result.errors:
            log.error("%s: %s", what, error.traceback.strip())


def _called(task_result: Any) -> str:
    return " ".join([task_result.task.name, *map(str, task_result.args)])

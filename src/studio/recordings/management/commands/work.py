"""``./giusto manage work``: hear and read what waits, sounds and scores, and go on waiting."""

from __future__ import annotations

import logging
import os
import sys
import time
import warnings
from pathlib import Path
from typing import Any

from django.core.management import BaseCommand, CommandParser
from django.db import OperationalError, connections
from django_tasks_db.management.commands.db_worker import Worker

from studio.locks import refuse_pooled
from studio.memory import resident_mb
from studio.queue import LANES, LOST, bury
from studio.recordings.actions import hear_again
from studio.recordings.sweeping import sweep_nightly
from studio.recordings.watchman import Watchman
from studio.scores.actions import read_again as read_scores_again
from studio.spool import own_spool
from studio.takes.waiting import read_again

IDLE_S = 0.5
WAIT_S = 1.0  # for a database that went away
AGAIN_S = 5.0  # between two looks for what a dead worker left
RENEWED_MB = 400  # ours: a process that came to hold so much begins anew between two tasks


class Command(BaseCommand):
    """Work through the queue in the database."""

    looked, buried = 0.0, True
    help = "Hear recordings and takes, and read scores, as they come; what a dead worker left is put in line anew."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add this command's arguments."""
        parser.add_argument("--once", action="store_true", help="end when nothing waits any more")
        parser.add_argument("--lanes", default=",".join(LANES), help="which lanes of the queue; %(default)s")
        parser.add_argument("--sign", type=Path, help="file for signs of life")

    def handle(self, *args: Any, **options: Any) -> None:
        """Work until told to stop."""
        own_spool()
        if not options["once"]:
            refuse_pooled()
        warnings.simplefilter("ignore")  # of libraries, about sounds that our own checks tell of
        for library in ("django_tasks", "django_tasks_db"):  # the watchman tells what was done, and how it ended
            logging.getLogger(library).setLevel(logging.CRITICAL)
        name = f"work {options['lanes']}"
        bury(name)
        worker = _worker(name, options["lanes"].split(","))
        watchman = Watchman(options["sign"])
        if options["once"]:
            _take_up_again()
            worker.run()
            return
        worker.configure_signals()
        watchman.start()
        while worker.running:
            try:
                self._work(worker, name)
            except OperationalError as error:  # the database comes back; what was begun is taken up again
                logging.getLogger("studio.work").warning("the database: %s", str(error).partition("\n")[0])
                self.buried = False
                connections.close_all()
                time.sleep(WAIT_S)
            if resident_mb() > RENEWED_MB and worker.running:
                os.execv(sys.executable, sys.orig_argv)  # noqa: S606 - this very program

    def _work(self, worker: Worker, name: str) -> None:
        """Work until nothing waits, then wait a little."""
        if not self.buried:
            bury(name, LOST)
            self.buried = True
        if time.monotonic() - self.looked > AGAIN_S:
            self.looked = time.monotonic()
            _take_up_again()
            sweep_nightly()
        worker.run()
        time.sleep(IDLE_S if worker.running else 0.0)


def _take_up_again() -> None:
    hear_again()
    read_again()
    read_scores_again()


def _worker(name: str, lanes: list[str]) -> Worker:
    """Return a worker that ends its run when nothing waits."""
    return Worker(
        queue_names=lanes,
        interval=IDLE_S,
        batch=True,
        backend_name="default",
        startup_delay=False,
        max_tasks=None,
        worker_id=name,
        excluded_queue_names=[],
    )

"""The real site on the test database, and a real browser before it.

Django's ORM refuses to work in a thread that runs an event loop, and Playwright's sync interface
runs one; so Playwright lives in a thread of its own, and the check stays on.
"""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import unittest
import urllib.request
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any, TypeVar

from django.db import connection
from django.test import TransactionTestCase
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, sync_playwright

from launch.cluster import free_port
from launch.place import ROOT

T = TypeVar("T")
CHROMIUM = "/usr/bin/chromium-headless-shell"  # the same browser without windows: a third of the processor's time


class Site:
    """A gunicorn process that can be stopped and started again on its port; and a worker, where sound is heard."""

    def __init__(self, *, works: bool) -> None:
        self.works = works
        self.worker: subprocess.Popen[bytes] | None = None
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def bind(self) -> str:
        """Where gunicorn listens."""
        return f"127.0.0.1:{self.port}"

    def answers(self) -> bool:
        """Whether it does."""
        urllib.request.urlopen(f"{self.address}/alive/", timeout=5).close()
        return True

    def start(self) -> None:
        """Start it and wait until it answers."""
        environment = {
            **os.environ,
            "GIUSTO_DB_NAME": connection.settings_dict["NAME"],
            "GIUSTO_DB_PORT": str(connection.settings_dict["PORT"]),
        }
        command = [sys.executable, "-m", "gunicorn", "studio.wsgi", "--bind", self.bind]
        command += ["--worker-class", "gthread", "--threads", "4", "--no-control-socket", "--log-level", "error"]
        self.process = subprocess.Popen(command, cwd=ROOT, env=environment, start_new_session=True)
        if self.works and self.worker is None:
            work = [sys.executable, "-m", "django", "work"]
            self.worker = subprocess.Popen(work, cwd=ROOT, env=environment, start_new_session=True)
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            with suppress(OSError):
                if self.answers():
                    return
            time.sleep(0.05)
        raise AssertionError("the site did not start")

    def stop(self) -> None:
        """Kill it, as a crash would."""
        if self.process:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None

    def end(self) -> None:
        """Kill all of it."""
        self.stop()
        if self.worker:
            os.killpg(self.worker.pid, signal.SIGKILL)
            self.worker.wait()


class Served:
    """The site and a browser in a thread of its own, shared by the tests of a module."""

    def open_with_worker(self) -> None:
        """As ``open``, with a worker: for what is heard in sound, and scores."""
        self.open(works=True)

    def open(self, *, works: bool = False) -> None:
        """Start both, and end them with the module whose ``setUpModule`` this is."""
        self.site = self.make_site(works=works)
        self.site.start()
        unittest.addModuleCleanup(self.site.end)
        self.thread = ThreadPoolExecutor(1)
        unittest.addModuleCleanup(self.thread.shutdown)
        self.playwright: Playwright = self.browse(lambda: sync_playwright().start())
        unittest.addModuleCleanup(lambda: self.browse(self.playwright.stop))
        options = {"executable_path": CHROMIUM, **self.options()}
        self.browser: Browser = self.browse(lambda: self.playwright.chromium.launch(**options))
        unittest.addModuleCleanup(lambda: self.browse(self.browser.close))

    def make_site(self, *, works: bool) -> Site:
        """Return the site that the browser is before."""
        return Site(works=works)

    def options(self) -> dict[str, Any]:
        """Return what the browser is started with."""
        return {}

    def browse(self, work: Callable[..., T], *arguments: Any) -> T:
        """Run something of Playwright's in its own thread."""
        return self.thread.submit(work, *arguments).result()


SERVED = Served()


class ServedTestCase(TransactionTestCase):
    """A test before the real site; ``self.page`` is used inside ``self.browse``."""

    init_script = ""  # runs in each page before its own
    served = SERVED

    @property
    def site(self) -> Site:
        """The site, to be stopped and started again."""
        return self.served.site

    @property
    def browser(self) -> Browser:
        """The browser, for a context of one's own."""
        return self.served.browser

    def browse(self, work: Callable[..., T], *arguments: Any) -> T:
        """Run something of Playwright's in its own thread."""
        return self.served.browse(work, *arguments)

    def setUp(self) -> None:
        if self.site.process is None:
            self.site.start()
        self.faults: list[str] = []
        self.requests: list[str] = []
        self.addCleanup(self._settle)
        self.browse(self._open)

    def __getstate__(self) -> dict[str, Any]:
        """Return it without its page: a subtest that fails is told to another process, where none is."""
        if "page" not in self.__dict__:
            return super().__getstate__()
        named = {name: value for name, value in self.__dict__.items() if name.startswith("_testMethod")}
        return {**named, "_outcome": None, "_subtest": None}

    def _settle(self) -> None:
        """Wait until the site answers nothing any more: emptying the tables would stand in its way."""
        busy = "select count(*) from pg_stat_activity where datname = current_database() and state <> 'idle'"
        deadline = time.monotonic() + 30
        quiet = 0
        while quiet < 3 and time.monotonic() < deadline:
            with connection.cursor() as cursor:
                cursor.execute(f"{busy} and pid <> pg_backend_pid()")
                quiet = 0 if cursor.fetchone()[0] else quiet + 1
            time.sleep(0.1)

    def _open(self) -> None:
        self.context = self.new_context()
        self.page: Page = self.new_page()

    def new_context(self, **options: Any) -> BrowserContext:
        """Return somebody else's browser, until the test is over; called inside ``self.browse``."""
        context = self.browser.new_context(**{"viewport": {"width": 1280, "height": 800}, **options})
        context.add_init_script(self.init_script)
        self.addCleanup(lambda: self.browse(context.close))
        return context

    def new_page(self) -> Page:
        """Return a new page whose errors and requests are noted."""
        page = self.context.new_page()
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("request", lambda request: self.requests.append(request.url))
        return page

    def url(self, path: str) -> str:
        """Return the address of a path."""
        return f"{self.site.address}{path}"

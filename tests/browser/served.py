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
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, sync_playwright

from launch.cluster import free_port
from launch.place import ROOT
from tests.committed import CommittedTestCase
from tests.ending import at_end

T = TypeVar("T")
CHROMIUM = "/usr/bin/chromium-headless-shell"  # the same browser without windows (decision 68)
PATIENCE_S = 90  # with a machine that does much else


class Site:
    """A gunicorn process that can be stopped and started again on its port; and a worker, where sound is heard."""

    def __init__(self) -> None:
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
        command = ["gunicorn", "studio.wsgi", "--bind", self.bind]
        command += ["--worker-class", "gthread", "--threads", "4", "--no-control-socket", "--log-level", "error"]
        self.process = self._run(*command)
        deadline = time.monotonic() + PATIENCE_S
        while time.monotonic() < deadline:
            with suppress(OSError):
                if self.answers():
                    return
            time.sleep(0.05)
        raise AssertionError("the site did not start")

    def work(self) -> None:
        """Start a worker."""
        self.worker = self._run("django", "work")

    def rest(self) -> None:
        """Kill the worker."""
        _kill(self.worker)
        self.worker = None

    def stop(self) -> None:
        """Kill it, as a crash would."""
        _kill(self.process)
        self.process = None

    def end(self) -> None:
        """Kill all of it."""
        self.stop()
        self.rest()

    def _run(self, *command: str) -> subprocess.Popen[bytes]:
        named = {name: str(connection.settings_dict[name]) for name in ("NAME", "PORT")}
        environment = {**os.environ, **{f"GIUSTO_DB_{name}": value for name, value in named.items()}}
        return subprocess.Popen([sys.executable, "-m", *command], cwd=ROOT, env=environment, start_new_session=True)


def _kill(process: subprocess.Popen[bytes] | None) -> None:
    if process:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()


class Served:
    """The site and a browser in a thread of its own, shared by the tests of a process: both take long to start."""

    site: Site
    is_open = False

    def open_with_worker(self) -> None:
        """As ``open``, with a worker as long as the module lasts: for what is heard in sound, and scores."""
        self.open()
        self.site.work()
        unittest.addModuleCleanup(self.site.rest)

    def open(self) -> None:
        """Start both, where they are not there yet: a module's ``setUpModule``."""
        if self.is_open:
            if self.site.process is None:
                self.site.start()
            return
        self.site = self.make_site()
        at_end(self.site.end)
        self.site.start()
        self.thread = ThreadPoolExecutor(1)
        at_end(self.thread.shutdown)
        self.playwright: Playwright = self.browse(lambda: sync_playwright().start())
        at_end(lambda: self.browse(self.playwright.stop))
        options = {"executable_path": CHROMIUM, **self.options()}
        self.browser: Browser = self.browse(lambda: self.playwright.chromium.launch(**options))
        at_end(lambda: self.browse(self.browser.close))
        self.is_open = True

    def make_site(self) -> Site:
        """Return the site that the browser is before."""
        return Site()

    def options(self) -> dict[str, Any]:
        """Return what the browser is started with."""
        return {}

    def browse(self, work: Callable[..., T], *arguments: Any) -> T:
        """Run something of Playwright's in its own thread."""
        return self.thread.submit(work, *arguments).result()


SERVED = Served()


class ServedTestCase(CommittedTestCase):
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
        self.served.open()
        self.faults: list[str] = []
        self.requests: list[str] = []
        self.addCleanup(self._settle)
        self.addCleanup(self.browse, self._close)
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
        context.set_default_timeout(1000 * PATIENCE_S)
        return context

    def _close(self) -> None:
        """Close all that was opened: a page that is left asks the site on, in the midst of another test."""
        for context in self.browser.contexts:
            context.close()

    def new_page(self) -> Page:
        """Return a new page whose errors and requests are noted."""
        page = self.context.new_page()
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("request", lambda request: self.requests.append(request.url))
        return page

    def url(self, path: str) -> str:
        """Return the address of a path."""
        return f"{self.site.address}{path}"

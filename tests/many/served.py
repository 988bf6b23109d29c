"""A studio as ``./giusto studio`` opens it, on loopback: Caddy with its own authority, and browsers that trust it."""

from __future__ import annotations

import json
import os
import subprocess
import tempfile
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings
from playwright.sync_api import BrowserContext, Page

from launch.cluster import free_port
from launch.proxy import AUTHORITY, NAME, Caddy, Door
from launch.users import site_user
from launch.web import ask_socket
from studio.accounts.models import Player
from tests.browser.served import Served, ServedTestCase, Site
from tests.ending import at_end
from tests.many.people import PASSWORD


class StudioSite(Site):
    """The site on a socket, and Caddy before it."""

    def __init__(self) -> None:
        super().__init__()
        self.folder = Path(tempfile.mkdtemp(prefix="giusto-studio-"))
        self.folder.chmod(0o755)
        self.socket = self.folder / "web.sock"
        self.door = Door(NAME, "127.0.0.1", free_port(), free_port())
        self.address = self.door.address.rstrip("/")
        self.caddy = Caddy(self.door, self.socket, self.socket, self.folder / "caddy")
        if user := site_user():
            (self.folder / "caddy").mkdir()
            os.chown(self.folder / "caddy", user.pw_uid, user.pw_gid)

    @property
    def bind(self) -> str:
        """Where gunicorn listens."""
        return f"unix:{self.socket}"

    @property
    def authority(self) -> Path:
        """The certificate that a phone is given."""
        return self.folder / "caddy" / AUTHORITY / "root.crt"

    def answers(self) -> bool:
        """Whether the site does."""
        return bool(json.loads(ask_socket(self.socket, NAME)))

    def start(self) -> None:
        """Start it, and the way in where it is not there yet."""
        super().start()
        if self.caddy.process is None:
            self.caddy.start()

    def end(self) -> None:
        """End all of it."""
        super().end()
        self.caddy.stop()


class ServedStudio(Served):
    """A studio, and a browser that was told to trust it."""

    site: StudioSite

    def make_site(self) -> Site:
        """Return the studio."""
        return StudioSite()

    def options(self) -> dict[str, Any]:
        """Return a browser with a list of authorities of its own, and the name where avahi would tell it."""
        home = Path(self.enter(tempfile.TemporaryDirectory()))
        store = home / ".pki/nssdb"
        store.mkdir(parents=True)
        for words in (
            ["-N", "--empty-password"],
            ["-A", "-n", "giusto", "-t", "C,,", "-i", str(self.site.authority)],
        ):
            subprocess.run(["certutil", "-d", f"sql:{store}", *words], check=True, capture_output=True)
        rules = f"--host-resolver-rules=MAP {NAME} 127.0.0.1"
        return {"env": {**os.environ, "HOME": str(home)}, "args": [rules]}

    def enter(self, manager: Any) -> Any:
        """Enter something until all tests are over."""
        entered = manager.__enter__()
        at_end(partial(manager.__exit__, None, None, None))
        return entered


STUDIO = ServedStudio()


class StudioTestCase(ServedTestCase):
    """A test before a real studio; each person has a browser of their own."""

    served = STUDIO

    def person(self, player: Player) -> BrowserContext:
        """Return the browser of somebody who is signed in; called inside ``self.browse``."""
        context = self.new_context()
        page = context.new_page()
        self.note(page)
        page.goto(self.url("/account/login/"))
        page.fill("input[name=login]", player.username)
        page.fill("input[name=password]", PASSWORD)
        page.click("button.solid")
        page.wait_for_url("**/today/")
        page.close()
        return context

    def note(self, page: Page) -> Page:
        """Note what goes wrong on a page."""
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("console", lambda message: self.faults.append(message.text) if message.type == "error" else None)
        return page


assert settings.MANY

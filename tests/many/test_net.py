"""A studio on a net of its own: the way in on one host, the browser on another, and a cable that is pulled.

Where namespaces can be made, which asks for root; else the same week stands on loopback alone (``test_studio``).
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
import unittest
from pathlib import Path
from typing import Any

from launch.hosts.net import Net, can_make
from launch.place import ROOT, log_of
from launch.proxy import HIGH_PORTS, NAME, PATIENCE_S, Caddy, Door, program
from launch.users import site_user
from studio.plans.actions import begin_preset
from studio.plans.presets import PRESETS
from studio.takes.models import Take
from tests.browser.scripts import STEADY_CLOCK
from tests.browser.served import CHROMIUM, Site
from tests.browser.test_take import text_of, until
from tests.ending import at_end
from tests.many import test_studio
from tests.many.people import person
from tests.many.served import ServedStudio, StudioSite, StudioTestCase

STUDIO_HOST, PLAYERS_HOST = "studio", "players"
HANDSHAKE = """
import socket, ssl, sys
trust = ssl.create_default_context(cafile=sys.argv[1])
trust.wrap_socket(socket.create_connection((sys.argv[2], int(sys.argv[3])), timeout=5), server_hostname=sys.argv[2])
"""


class CaddyOnHost(Caddy):
    """The way in, on a host of a net."""

    net: Net

    def start(self) -> None:
        """Start it, and wait until it answers on its own host."""
        self._make_folder()
        command = [program(), "run", "--config", str(self.folder / "Caddyfile"), "--adapter", "caddyfile"]
        user = site_user()
        who = (user.pw_uid, user.pw_gid) if user else None
        how = {"env": self._environment(), "umask": 0o077, "cwd": ROOT}
        with log_of("caddy") as log:
            self.process = self.net.start(STUDIO_HOST, command, user=who, stdout=log, stderr=log, **how)
        deadline = time.monotonic() + PATIENCE_S
        while self.process.poll() is None and time.monotonic() < deadline:
            if self._has_certificate():
                return
            time.sleep(0.1)
        raise OSError("the way in did not open on its host")

    def _shakes_hands(self, authority: Path) -> bool:
        """Whether it answers, asked from its own host: nobody else is on that net."""
        words = [str(authority), self.door.ip, str(self.door.https)]
        try:
            self.net.run(STUDIO_HOST, [sys.executable, "-c", HANDSHAKE, *words])
        except OSError:
            return False
        return True


class SiteOnNet(StudioSite):
    """The site on a socket, and the way in on a host."""

    def __init__(self, net: Net) -> None:
        super().__init__()
        self.door = Door(NAME, net.addresses[STUDIO_HOST], *HIGH_PORTS)
        self.address = self.door.address.rstrip("/")
        self.caddy = CaddyOnHost(self.door, self.socket, self.socket, self.folder / "caddy")
        self.caddy.net = net


class ServedOnNet(ServedStudio):
    """A studio on one host, a browser on another."""

    net: Net

    def make_site(self) -> Site:
        """Return the studio, on its host."""
        self.net = Net([STUDIO_HOST, PLAYERS_HOST], f"giusto-net-{os.getpid()}")
        at_end(self.net.remove)
        self.net.make()
        return SiteOnNet(self.net)

    def options(self) -> dict[str, Any]:
        """Return a browser on the players' host, which knows the studio's name."""
        options = super().options()
        there = Path(self.enter(tempfile.TemporaryDirectory())) / "chromium"
        there.write_text(f'#!/bin/sh\nexec ip netns exec {self.net.space(PLAYERS_HOST)} {CHROMIUM} "$@"\n')
        there.chmod(0o755)
        rules = f"--host-resolver-rules=MAP {NAME} {self.net.addresses[STUDIO_HOST]}"
        return {**options, "executable_path": str(there), "args": [rules]}


ON_NET = ServedOnNet()


def setUpModule() -> None:
    """Make the net, where that can be."""
    if not can_make():
        raise unittest.SkipTest("namespaces can't be made here")
    ON_NET.open()


class WeekOnNetTests(test_studio.WeekTests):
    """A teacher's and a pupil's week, from the code to the printed month, over a wire."""

    served = ON_NET


class CableTests(StudioTestCase):
    served = ON_NET
    init_script = STEADY_CLOCK

    def test_a_cable_that_is_pulled_in_mid_take_loses_nothing(self) -> None:
        """Not a browser that is told it is off the net: packets that don't come back."""
        player = person("tavi")
        begin_preset(player=player, key=next(iter(PRESETS)))
        self.addCleanup(ON_NET.net.link, PLAYERS_HOST, is_up=True)

        def practise() -> str:
            page = self.note(self.person(player).new_page())
            page.goto(self.url("/today/"))
            until(page, "document.body.dataset.kept > 0")
            page.goto(self.url(page.get_attribute(".minute-rule a[href*='/play/'] >> nth=0", "href") or ""))
            page.click("#tap")
            until(page, "globalThis.giusto?.page?.next >= 2")
            page.keyboard.press("Space")
            ON_NET.net.link(PLAYERS_HOST, is_up=False)
            page.keyboard.press("KeyJ")
            page.keyboard.press("Escape")
            until(page, "document.getElementById('word').textContent === 'Kept'")
            ON_NET.net.link(PLAYERS_HOST, is_up=True)
            page.wait_for_url("**/takes/*/")
            return text_of(page, "main")

        self.browse(practise)
        take = Take.objects.get(player=player)
        self.assertEqual(len(take.reading.onsets_s or []), 2)

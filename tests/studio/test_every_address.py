"""Whatever is sent to whatever address: a clear answer, never an error of ours, never for long.

Addresses come from the table of addresses, so that a new one is tried from the day it is there. Words are drawn anew
each run; ``GIUSTO_ODD_SEED`` repeats one.
"""

from __future__ import annotations

import json
import logging
import os
import random
import re
import secrets
import time
import traceback
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.signals import got_request_exception
from django.test import Client, TestCase
from django.urls import URLPattern, URLResolver, get_resolver

from giusto.simulation.player import SimulatedPlayer
from studio.accounts.models import local_player
from studio.archive.unloadable import unloadable
from studio.drills.actions import keep_drill
from studio.drills.shelf import shelf
from studio.ladders.actions import start_ladder
from studio.pieces.actions import keep_piece
from tests.drills import plain
from tests.studio.ladders.climbing import ladder_core
from tests.studio.plans.test_today import a_routine, in_technique
from tests.studio.playing import play

STUDIO = Path(__file__).parents[2] / "src/studio"
ROUNDS = int(os.environ.get("GIUSTO_ODD_ROUNDS", "2"))
LONGEST_S = 20.0
ODD = (
    "",
    " ",
    "x",
    "0",
    "-1",
    "1",
    "3.5",
    "٣",
    "9" * 400,
    "-" + "9" * 400,
    "1e999",
    "nan",
    "Infinity",
    "a\x00b",
    "\u202eabc",
    "🥁" * 50,
    "a" * 5000,
    "null",
    "[]",
    "{}",
    "[" * 3000,
    '{"a": 1e400}',
    "../../etc/passwd",
    "//elsewhere.example/",
    "/today/",
    "javascript:alert(1)",
    "2026-02-30",
    "0001-01-01",
    "9999-12-31",
    "1,2,3",
    "<script>",
    "%00",
    "climb-1",
    "every-beat",
)
# What the pages and the views call their fields.
CALLED = re.compile(r'(?:name=|GET\.get\(|POST\.get\()"([a-z_]+)"')
SOURCES = [file for kind in ("*.html", "*.py") for file in STUDIO.rglob(kind)]
NAMES = sorted({name for file in SOURCES for name in CALLED.findall(file.read_text(encoding="utf-8"))})
FILES = (
    b"",
    b"\x00" * 100,
    b"PK\x03\x04nothing",
    b"RIFF" + b"\xff" * 40,
    b"MThd" + b"\xff" * 40,
    b"<score-partwise>",
    b"fLaC" + b"\x00" * 50,
    b"at,rung,clean\n1,1,1\n",
    b'{"giusto": "drill/1"}',
    b"[" * 100_000,
    b'{"giusto": "routine/1", "minutes": 1e999}',
    b"\xff\xfe" + b"<\x00" * 50,
)


def brief(words: dict[str, Any]) -> dict[str, str]:
    """Return words short enough to be read in a report."""
    return {name: repr(word)[:60] for name, word in words.items()}


class EveryAddressTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        player = local_player()
        cls.take = play(Client(), player=SimulatedPlayer(bias_percent=-1.0))
        cls.ladder = start_ladder(player=player, ladder=ladder_core())
        cls.piece = keep_piece(
            player=player, name="A tune", goal_bpm=90.0, first_bar=1, last_bar=8, begins=[1, 5], beats=4, grid=2
        )
        cls.own = keep_drill(player=player, drill=shelf()["every-beat"].drill, name="Mine", family="follow")
        a_routine(in_technique("Quarters"))

    def setUp(self) -> None:
        self.seed = int(os.environ.get("GIUSTO_ODD_SEED", secrets.randbelow(2**31)))
        self.rng = random.Random(self.seed)
        self.client = Client(raise_request_exception=False)
        self.raised: list[str] = []
        self.failed: dict[str, object] = {}
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        got_request_exception.connect(self.note)
        self.addCleanup(got_request_exception.disconnect, self.note)

    def note(self, **_: object) -> None:
        """Remember where an error came from."""
        self.raised.append(traceback.format_exc(limit=-3))

    def value(self, name: str, kind: str) -> Any:
        """Return something for a part of an address: what is there, as a rule, or what is not."""
        there = {
            "take_id": self.take.pk,
            "ladder_id": self.ladder.pk,
            "piece_id": self.piece.pk,
            "own_id": self.own.pk,
            "stretch_id": self.piece.stretches.all()[0].pk,
            "exercise_id": self.take.exercise_id,
        }
        if name in there and self.rng.random() < 0.8:
            return there[name]
        if kind == "UUIDConverter":
            return uuid4()
        if kind == "IntConverter":
            return self.rng.choice((0, 1, 2, 12, 2026, 10**18, 10**30))
        return self.rng.choice(("x", "wood", "click", "wav", "mid", "a" * 300, "skin"))

    def addresses(self) -> Iterator[str]:
        """Yield every address that there is, its parts filled in."""

        def walk(patterns: Any, before: str) -> Iterator[str]:
            for one in patterns:
                route = before + str(one.pattern)
                if isinstance(one, URLResolver):
                    yield from walk(one.url_patterns, route)
                elif isinstance(one, URLPattern):
                    for name, converter in one.pattern.converters.items():
                        kind = type(converter).__name__
                        for part in (
                            f"<{name}>",
                            *(f"<{word}:{name}>" for word in ("uuid", "int", "str", "slug", "path")),
                        ):
                            route = route.replace(part, str(self.value(name, kind)))
                    yield "/" + route

        return walk(get_resolver().url_patterns, "")

    def words(self) -> dict[str, str]:
        """Return some odd words."""
        return {self.rng.choice(NAMES): self.rng.choice(ODD) for _ in range(self.rng.randrange(1, 7))}

    def answered(self, answer: Any, began: float, what: tuple[object, ...]) -> None:
        """Note what failed by an error of ours, or took too long."""
        took = time.monotonic() - began
        if answer.status_code >= 500:
            self.failed.setdefault(self.raised[-1] if self.raised else str(what[0]), (answer.status_code, *what))
        if took > LONGEST_S:
            self.failed[f"{what[0]} took {took:.0f} s"] = what

    def test_no_address_fails(self) -> None:
        tried = 0
        for _ in range(ROUNDS):
            for address in self.addresses():
                for send in (self.get, self.form, self.body):
                    began = time.monotonic()
                    what, answer = send(address)
                    self.answered(answer, began, what)
                    tried += 1
        self.assertGreater(tried, ROUNDS * 300)
        self.assertEqual([str(row) for row in unloadable()], [], f"seed {self.seed}")
        found = "\n".join(f"{where}\n{what}" for where, what in self.failed.items())
        self.assertFalse(self.failed, f"seed {self.seed}\n{found}")

    def get(self, address: str) -> tuple[tuple[object, ...], Any]:
        """Ask for an address with odd words."""
        words = self.words()
        return (address, brief(words)), self.client.get(address, words)

    def form(self, address: str) -> tuple[tuple[object, ...], Any]:
        """Send an odd form, now and then with an odd file."""
        words: dict[str, Any] = self.words()
        told = brief(words)
        if self.rng.random() < 0.4:
            content = self.rng.choice(FILES)
            name = self.rng.choice(("a.wav", "b.musicxml", "c.json", "d", "e.zip", "f.csv", "ü\u202e.mid"))
            words[self.rng.choice(("file", "sound", "score"))] = SimpleUploadedFile(name, content)
            told["file"] = repr((name, content[:20]))
        return (address, told), self.client.post(address, words)

    def body(self, address: str) -> tuple[tuple[object, ...], Any]:
        """Send odd JSON."""
        odd = (*ODD, 1, -1.5, True, None, [], {}, [[]], {"a": {"b": []}}, plain())
        names = ("drill", "input", "device", "zero_audio_s", "started_at", "notes", "pairs", "how", "batches", "sound")
        plain_ = {name: self.rng.choice(odd) for name in self.rng.sample(names, 5)}
        text = self.rng.choice((json.dumps(plain_), json.dumps(self.rng.choice(odd)), self.rng.choice(ODD)))
        return (address, text[:300]), self.client.post(address, text, content_type="application/json")

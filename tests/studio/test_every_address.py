"""Whatever is sent to whatever address: a clear answer, never an error of ours, never for long.

Addresses come from the table of addresses, messages from the schemas of what the site reads, so that a new one is tried
from the day it is there. All of it is drawn anew each run by Hypothesis, which shrinks what fails; ``GIUSTO_ODD_SEED``
repeats a run, ``GIUSTO_ODD_ROUNDS`` makes it longer.
"""

from __future__ import annotations

import logging
import os
import secrets
import time
import traceback
from collections.abc import Callable, Iterable, Iterator
from functools import partial
from typing import Any
from uuid import uuid4
from zlib import crc32

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.signals import got_request_exception
from django.test import Client, TestCase
from django.urls import URLPattern, URLResolver, get_resolver
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from hypothesis.strategies import DataObject, SearchStrategy

from giusto.simulation.player import SimulatedPlayer
from studio.accounts.models import local_player
from studio.archive.unloadable import unloadable
from studio.drills.actions import keep_drill
from studio.drills.shelf import shelf
from studio.ladders.actions import start_ladder
from studio.pieces.actions import keep_piece
from tests.studio.ladders.climbing import ladder_core
from tests.studio.odd import FILE_NAMES, NAMES, bodies, files, texts
from tests.studio.plans.test_today import a_routine, in_technique
from tests.studio.playing import play

ROUNDS = int(os.environ.get("GIUSTO_ODD_ROUNDS", "2"))
LONGEST_S = 20.0
CONVERTERS = ("uuid", "int", "str", "slug", "path")


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
        self.client = Client(raise_request_exception=False)
        self.raised: list[str] = []
        self.asked = 0
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        got_request_exception.connect(self.note)
        self.addCleanup(got_request_exception.disconnect, self.note)

    def note(self, **_: object) -> None:
        """Remember where an error came from."""
        self.raised.append(traceback.format_exc(limit=-3))

    def there(self) -> dict[str, Any]:
        """Return what is there, by the name of the part of an address that leads to it."""
        return {
            "take_id": self.take.pk,
            "ladder_id": self.ladder.pk,
            "piece_id": self.piece.pk,
            "own_id": self.own.pk,
            "stretch_id": self.piece.stretches.all()[0].pk,
            "exercise_id": self.take.exercise_id,
        }

    def part(self, name: str, kind: str) -> SearchStrategy[Any]:
        """Return what may stand in a part of an address: what is there, as a rule, or what is not."""
        strange: SearchStrategy[Any] = {
            "UUIDConverter": st.just(uuid4()),
            "IntConverter": st.sampled_from((0, 1, 2, 12, 2026, 10**18, 10**30)),
        }.get(kind, st.sampled_from(("x", "wood", "click", "words", "wav", "mid", "a" * 300, "skin")))
        found = self.there().get(name)
        return strange if found is None else st.one_of(*[st.just(found)] * 4, strange)

    def before(self) -> SearchStrategy[str]:
        """Return what may stand before an address."""
        return st.just("")

    def routes(self) -> Iterator[tuple[str, dict[str, str]]]:
        """Yield every address that there is, with the kinds of its parts by name."""

        def walk(patterns: Any, before: str) -> Iterator[tuple[str, dict[str, str]]]:
            for one in patterns:
                route = before + str(one.pattern)
                if isinstance(one, URLResolver):
                    yield from walk(one.url_patterns, route)
                elif isinstance(one, URLPattern):
                    kinds = {name: type(converter).__name__ for name, converter in one.pattern.converters.items()}
                    yield f"/{route}", kinds

        return walk(get_resolver().url_patterns, "")

    def test_no_address_fails(self) -> None:
        self.hold_all(self.routes())
        self.assertGreater(self.asked, ROUNDS * 300)

    def hold_all(self, routes: Iterable[tuple[str, dict[str, str]]]) -> None:
        """Send odd things to addresses; no row is left behind that can't be loaded."""
        for route, kinds in routes:
            with self.subTest(route, seed=self.seed):
                self.hold(route, kinds)
        self.assertEqual([str(row) for row in unloadable()], [], f"seed {self.seed}")

    def hold(self, route: str, kinds: dict[str, str]) -> None:
        """Send odd things to an address, in each of three ways."""

        @seed(self.seed + crc32(route.encode()))
        @settings(
            max_examples=ROUNDS + 1,  # the first is the simplest there is
            deadline=None,
            database=None,
            suppress_health_check=list(HealthCheck),
            phases=(Phase.generate, Phase.shrink),
        )
        @given(st.data())
        def holds(data: DataObject) -> None:
            address = route
            for name, kind in kinds.items():
                found = str(data.draw(self.part(name, kind), label=name))
                for written in (f"<{name}>", *(f"<{word}:{name}>" for word in CONVERTERS)):
                    address = address.replace(written, found)
            address = data.draw(self.before(), label="before") + address
            for draw in (self.get, self.form, self.body):
                send = draw(data, address)
                began, self.raised = time.thread_time(), []  # who waits longer than that is ended by the site itself
                answer = send()
                took = time.thread_time() - began
                self.asked += 1
                self.assertLess(answer.status_code, 500, f"{draw.__name__} {address}\n{''.join(self.raised[-1:])}")
                self.assertLess(took, LONGEST_S, f"{draw.__name__} {address}")

        holds()

    def words(self, data: DataObject) -> dict[str, Any]:
        """Return some fields with odd words."""
        return data.draw(st.dictionaries(st.sampled_from(NAMES), texts(), max_size=6), label="words")

    def get(self, data: DataObject, address: str) -> Callable[[], Any]:
        """Return what asks for an address with odd words."""
        return partial(self.client.get, address, self.words(data))

    def form(self, data: DataObject, address: str) -> Callable[[], Any]:
        """Return what sends an odd form, now and then with an odd file."""
        words = self.words(data)
        if data.draw(st.integers(0, 4)) < 2:
            name, content = data.draw(st.sampled_from(FILE_NAMES)), data.draw(files(), label="file")
            words[data.draw(st.sampled_from(("file", "sound", "score")))] = SimpleUploadedFile(name, content)
        return partial(self.client.post, address, words)

    def body(self, data: DataObject, address: str) -> Callable[[], Any]:
        """Return what sends odd JSON."""
        return partial(self.client.post, address, data.draw(bodies(), label="body"), content_type="application/json")

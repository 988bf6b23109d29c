"""The invented people of the tests of a studio, and one thing of each kind that is the pupil's."""

from __future__ import annotations

import io
from datetime import timedelta
from typing import Any

import numpy as np
import soundfile
from django.core.files.base import ContentFile
from django.test import Client
from django.utils import timezone

from giusto.click.voice import OwnSound
from giusto.practice.ladder import ladder_of
from studio.accounts.models import Player
from studio.drills.actions import keep_drill
from studio.drills.shelf import shelf
from studio.drills.voices import keep as keep_click
from studio.hearing.models import Delay, Instrument
from studio.joining.models import Code, make_code
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.pieces.actions import keep_piece
from studio.pieces.models import Mark, Piece
from studio.plans.actions import begin_preset, set_feed
from studio.plans.presets import PRESETS
from studio.recordings.models import Upload
from studio.takes.models import KeptSound, Take
from studio.teaching import actions
from studio.teaching.models import Assignment, Consent, Remark, Scope, Shown
from tests.drills import plain
from tests.studio.ladders.climbing import ladder as plain_ladder
from tests.studio.playing import play

PASSWORD = "a drum in the cellar"
SECRET = "my own words, and nobody else's"


def person(name: str, role: str = Player.Role.PLAYER, **fields: Any) -> Player:
    """Make somebody with an account."""
    return Player.objects.create_user(name, password=PASSWORD, role=role, display_name=name.capitalize(), **fields)


def client_of(player: Player | None, *, raises: bool = False) -> Client:
    """Return a browser in which somebody is signed in, or nobody."""
    client = Client(raise_request_exception=raises, headers={"X-Real-IP": "192.0.2.7"})  # the proxy's word
    if player:
        client.force_login(player)
    return client


def silent_wav() -> bytes:
    """Return a second of silence."""
    buffer = io.BytesIO()
    soundfile.write(buffer, np.zeros(8000, dtype=np.float32), 8000, format="WAV", subtype="PCM_16")
    return buffer.getvalue()


class Things:
    """A pupil, her teacher, and one thing of each kind that is hers."""

    def __init__(self) -> None:
        self.owner = person("owner", Player.Role.OWNER)
        self.teacher = person("teacher", Player.Role.TEACHER)
        self.pupil = person("pupil", instrument="frame drum")
        self.another = person("another")
        self.former = person("former", Player.Role.TEACHER)
        client = client_of(self.pupil, raises=True)
        self.take: Take = play(client)
        self.take.note = SECRET
        self.take.save(update_fields=["note"])
        self.sound = KeptSound.objects.create(
            player=self.pupil, take=self.take, bytes=4, zero_s=0.0, file=ContentFile(silent_wav(), "x.wav")
        )
        self.ladder: Ladder = start_ladder(player=self.pupil, ladder=ladder_of(plain_ladder()), name="Eighths")
        fields = {"goal_bpm": 90.0, "first_bar": 1, "last_bar": 8, "begins": [1, 5], "beats": 4, "grid": 2}
        self.piece: Piece = keep_piece(player=self.pupil, name="A tune", note=SECRET, **fields)
        self.mark = Mark.objects.create(piece=self.piece, bar=2, beat=1, sort="rush", note=SECRET)
        drill = shelf()["every-beat"].drill
        sound = OwnSound(np.array([0.9, -0.4, 0.1] * 90), 1000.0)
        self.click = keep_click(player=self.pupil, sound=sound, name="Bell")
        self.own = keep_drill(player=self.pupil, drill=drill, name="Mine", family="follow")
        self.upload = Upload.objects.create(player=self.pupil, number=1, drill=plain())
        shapes = np.eye(9, 12).tolist()
        self.instrument = Instrument.objects.create(player=self.pupil, name="Drum", shapes=shapes)
        self.delay = Delay.objects.create(
            player=self.pupil,
            by="keys",
            delay_ms=20.0,
            low_ms=18.0,
            high_ms=22.0,
            count=40,
            measured_at=timezone.now(),
        )
        begin_preset(player=self.pupil, key=next(iter(PRESETS)))
        self.routine = set_feed(player=self.pupil, is_open=True)
        until = timezone.localdate() + timedelta(days=30)
        agreed = {"player": self.pupil, "since": None, "until": until}
        self.consent: Consent = actions.agree(teacher=self.teacher, scopes=[], **agreed)
        self.ended: Consent = actions.agree(teacher=self.former, scopes=list(Scope.values), **agreed)
        actions.withdraw(player=self.pupil, consent=self.ended)
        self.remark: Remark = actions.say(
            player=self.teacher, pupil=self.pupil, text="Lean back.", take=self.take, silence=None
        )
        theirs = keep_drill(player=self.teacher, drill=drill, name="For you", family="follow")
        self.assignment: Assignment = actions.assign(
            player=self.teacher, pupil=self.pupil, what=f"drill:{theirs.pk}", goal="four days", due=None
        )
        self.shown: Shown = actions.show(player=self.pupil, take=self.take, days=1)
        self.code = make_code(self.teacher, Code.Kind.LESSON)

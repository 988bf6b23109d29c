"""Writing an archive: every take, drill, ladder, attempt, routine, piece and note of one player."""

from __future__ import annotations

import json
import zipfile
from base64 import b64encode
from collections.abc import Iterator
from contextlib import contextmanager
from hashlib import sha256
from typing import IO, Any

from django.db import transaction
from django.utils import timezone

import giusto
from giusto.notes.csv_file import write_notes
from giusto.practice.ladder import write_attempts
from studio.accounts.models import Player
from studio.archive import layout
from studio.archive.layout import plain, text
from studio.drills.models import delivery_of
from studio.hearing.models import ear_of
from studio.joining.models import AuditLine
from studio.ladders.standing import standings
from studio.plans.models import Routine
from studio.takes.archive import notes_of_take
from studio.takes.models import Take
from studio.teaching.models import Assignment, Consent, Remark

CHUNK = 100  # takes that are in memory at once


class _Bundle:
    """An archive while it is written, with the digest of each of its files."""

    def __init__(self, file: IO[bytes]) -> None:
        self.zip = zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, allowZip64=True)
        self.digests: dict[str, str] = {}

    def add(self, path: str, content: str | bytes) -> None:
        """Write a file."""
        data = content.encode() if isinstance(content, str) else content
        self.digests[path] = sha256(data).hexdigest()
        self.zip.writestr(path, data)


def write_archive(player: Player, file: IO[bytes]) -> dict[str, int]:
    """Write all that a player has into a file, as it was at one moment; return how much of each there is."""
    with _at_one_moment():
        bundle = _Bundle(file)
        counts = {
            "drills": _drills(player, bundle),
            "exercises": _exercises(player, bundle),
            "ladders": _ladders(player, bundle),
            "pieces": _pieces(player, bundle),
            "takes": _takes(player, bundle),
        }
        _player(player, bundle)
        _plan(player, bundle)
        _teaching(player, bundle)
        manifest = {
            "giusto": layout.VERSION,
            "made": timezone.now().isoformat(),
            "by": giusto.__version__,
            "counts": counts,
            "files": bundle.digests,
        }
        bundle.zip.writestr(layout.MANIFEST, text(manifest))
        bundle.zip.close()
    return counts


@contextmanager
def _at_one_moment() -> Iterator[None]:
    """Read everything from one state of the database, whatever is played meanwhile."""
    with transaction.atomic():
        connection = transaction.get_connection()
        if not connection.savepoint_ids:  # within another transaction its own state is the one
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield


def _player(player: Player, bundle: _Bundle) -> None:
    delivery = plain(delivery_of(player), layout.DELIVERY_COLUMNS)
    ear = plain(ear_of(player), layout.EAR_COLUMNS)
    instruments = [plain(one, layout.INSTRUMENT_COLUMNS) for one in player.instruments.order_by("name")]
    delays = [plain(one, layout.DELAY_COLUMNS) for one in player.delays.order_by("measured_at")]
    clicks = [
        {**plain(one, layout.CLICK_COLUMNS), "samples": b64encode(one.samples).decode()}
        for one in player.clicks.order_by("made_at")
    ]
    kept = {
        **plain(player, layout.PLAYER_COLUMNS),
        "delivery": delivery,
        "clicks": clicks,
        "ear": ear,
        "delays": delays,
        "instruments": instruments,
    }
    bundle.add(layout.PLAYER, text(kept))
    sessions = [plain(one, layout.SESSION_COLUMNS) for one in player.sessions.order_by("day")]
    bundle.add(layout.SESSIONS, text(sessions))


def _drills(player: Player, bundle: _Bundle) -> int:
    own = list(player.drills.order_by("created_at"))
    for one in own:
        bundle.add(layout.drill_path(one.pk), text(one.spec))
    bundle.add(layout.DRILLS, text([plain(one, layout.DRILL_COLUMNS) for one in own]))
    return len(own)


def _exercises(player: Player, bundle: _Bundle) -> int:
    rows = [plain(one, layout.EXERCISE_COLUMNS) for one in player.exercises.order_by("pk")]
    bundle.add(layout.EXERCISES, text(rows))
    return len(rows)


def _ladders(player: Player, bundle: _Bundle) -> int:
    found = standings(player.ladders.select_related("exercise", "player").order_by("created_at", "pk"), timezone.now())
    for one in found:
        pk = one.ladder.pk
        bundle.add(layout.ladder_path(pk), text(one.ladder.spec))
        bundle.add(layout.attempts_path(pk, "all"), write_attempts(one.attempts))
        if one.others:
            bundle.add(layout.attempts_path(pk, "elsewhere"), write_attempts(one.others))
    bundle.add(layout.LADDERS, text([plain(one.ladder, layout.LADDER_COLUMNS) for one in found]))
    return len(found)


def _plan(player: Player, bundle: _Bundle) -> None:
    routine = Routine.objects.filter(player=player).first()
    if routine:
        bundle.add(layout.ROUTINE, text(routine.spec))
    kept: dict[str, Any] = {
        "routine": plain(routine, layout.ROUTINE_COLUMNS) if routine else None,
        "weeks": [plain(one, layout.WEEK_COLUMNS) for one in player.weeks.order_by("monday")],
        "days": [plain(one, layout.DAY_COLUMNS) for one in player.days.order_by("day")],
    }
    bundle.add(layout.PLAN, text(kept))
    entries = player.entries.order_by("name")
    bundle.add(layout.ENTRIES, text([plain(one, layout.ENTRY_COLUMNS) for one in entries]))


def _teaching(player: Player, bundle: _Bundle) -> None:
    """Write what a studio added, where there is any of it."""
    kept = {
        "remarks": [plain(one, layout.REMARK_COLUMNS) for one in Remark.objects.filter(player=player).order_by("at")],
        "assignments": [
            plain(one, layout.ASSIGNMENT_COLUMNS) for one in Assignment.objects.filter(player=player).order_by("at")
        ],
        "consents": [
            {"teacher": str(one.teacher), **plain(one, layout.CONSENT_COLUMNS)}
            for one in Consent.objects.of(player).select_related("teacher")
        ],
        "lines": [plain(one, layout.LINE_COLUMNS) for one in AuditLine.objects.filter(player=player)],
    }
    if any(kept.values()):
        bundle.add(layout.TEACHING, text(kept))


def _pieces(player: Player, bundle: _Bundle) -> int:
    rows = []
    for one in player.pieces.filter(is_draft=False).order_by("created_at"):
        stretches = one.stretches.order_by("pk")
        rows.append(
            {
                **plain(one, layout.PIECE_COLUMNS),
                "stretches": [plain(stretch, layout.STRETCH_COLUMNS) for stretch in stretches],
                "marks": [plain(mark, layout.MARK_COLUMNS) for mark in one.marks.all()],
            }
        )
        if one.score is not None:
            bundle.add(layout.score_path(one.pk), bytes(one.score))
    bundle.add(layout.PIECES, text(rows))
    return len(rows)


def _takes(player: Player, bundle: _Bundle) -> int:
    takes = Take.objects.of(player).select_related("reading", "session", "sound").prefetch_related("batches")
    count = 0
    for take in takes.order_by("started_at", "pk").iterator(chunk_size=CHUNK):
        _take(take, bundle)
        count += 1
    return count


def _take(take: Take, bundle: _Bundle) -> None:
    day = take.session.day.isoformat() if take.session else None
    reading = getattr(take, "reading", None)
    columns = plain(reading, layout.READING_COLUMNS) if reading else None
    sound = getattr(take, "sound", None)
    kept = {**plain(take, layout.TAKE_COLUMNS), "session": day, "reading": columns}
    if sound and sound.file.storage.exists(str(sound.file.name)):
        kept["sound"] = plain(sound, layout.SOUND_COLUMNS)
        with sound.file.open("rb") as content:
            bundle.add(layout.take_path(take.pk, "sound.flac"), content.read())
    bundle.add(layout.take_path(take.pk, "take.json"), text(kept))
    bundle.add(layout.take_path(take.pk, "drill.json"), text(take.drill))
    lines = (json.dumps({"number": one.number, "notes": one.notes, "pairs": one.pairs}) for one in take.batches.all())
    bundle.add(layout.take_path(take.pk, "batches.jsonl"), "".join(f"{line}\n" for line in lines))
    if take.ended_how:
        bundle.add(layout.take_path(take.pk, "take.csv"), write_notes(notes_of_take(take)))
    if reading and reading.spec:
        bundle.add(layout.take_path(take.pk, "reading.json"), text(reading.spec))

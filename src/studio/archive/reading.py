"""Bringing an archive in, whole or not at all, into a Giusto whose player has nothing yet."""

from __future__ import annotations

import json
import math
import stat
import zipfile
import zlib
from base64 import b64decode
from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import date, datetime
from hashlib import sha256
from pathlib import PurePosixPath
from typing import IO, Any, TypeVar

from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.db import DatabaseError, models, transaction
from django.utils.dateparse import parse_datetime
from pydantic import BaseModel

from giusto.drill import validate
from giusto.drill.identity import drill_key
from giusto.errors import GiustoError
from giusto.hearing.timbre import timbre
from giusto.plan.routine import routine_of
from giusto.practice.ladder import ladder_of, parse_attempts
from studio.accounts.models import Player
from studio.archive import layout
from studio.archive.layout import ArchiveError
from studio.columns import TypedJSONField
from studio.drills.models import Delivery, OwnClick, OwnDrill
from studio.drills.voices import sounding
from studio.exercises.models import Exercise, Session
from studio.hearing.models import Delay, Ear, Instrument
from studio.ladders.actions import keep_attempts
from studio.ladders.models import Ladder
from studio.pieces.models import Mark, Piece, Stretch
from studio.plans.entries import bind
from studio.plans.models import Day, Entry, Routine, Week
from studio.plans.older import by_entries, names_in
from studio.takes.facts import brief_of
from studio.takes.material import material_of
from studio.takes.messages import KeptBatch, checked
from studio.takes.models import Batch, KeptSound, Reading, Silence, Take
from studio.takes.reading import silence_row
from studio.takes.rekey import rekey, stale
from studio.teaching.models import Assignment, Remark

MOST_FILES, MOST_FILE, MOST_IN_ALL = 2_000_000, 400_000_000, 40_000_000_000  # ours: decades of daily practice
BROKEN = (zipfile.BadZipFile, OSError, RuntimeError, NotImplementedError, EOFError, zlib.error)
WRONG = (
    KeyError,
    TypeError,
    ValueError,
    AttributeError,
    OverflowError,
    RecursionError,
    ValidationError,
    DatabaseError,
    GiustoError,
)
EARLIEST, LATEST = 1970, 2200  # ours: years of whatever is brought in


Row = TypeVar("Row", bound=models.Model)


class _Bundle:
    """An archive while it is brought in: only files that its manifest names, as it names them."""

    def __init__(self, file: IO[bytes]) -> None:
        try:
            self.zip = zipfile.ZipFile(file)
            infos = self.zip.infolist()
        except BROKEN as error:
            raise ArchiveError(f"the archive can't be read: {error}") from None
        _check(infos)
        manifest = self._manifest()
        self.digests: dict[str, str] = manifest["files"]
        self.sounds: list[KeptSound] = []
        there = {info.filename for info in infos} - {layout.MANIFEST}
        if missing := sorted(set(self.digests) - there):
            raise ArchiveError(f"the archive is not whole: {missing[0][:80]} is missing, of {len(missing)} such files")
        if extra := sorted(there - set(self.digests)):
            raise ArchiveError(f"{extra[0][:80]} is not named in {layout.MANIFEST}, allowed is only what stands there")

    def _manifest(self) -> dict[str, Any]:
        try:
            found = _plain(self._bytes(layout.MANIFEST))
        except KeyError:
            raise ArchiveError(f"the archive has no {layout.MANIFEST}: it is none of Giusto's, or not whole") from None
        except (ValueError, RecursionError) as error:
            raise ArchiveError(f"{layout.MANIFEST} can't be read: {error}") from None
        version = found.get("giusto") if isinstance(found, dict) else None
        if version != layout.VERSION or not isinstance(found.get("files"), dict):
            raise ArchiveError(f'{layout.MANIFEST} is "{str(version)[:40]}", allowed is "{layout.VERSION}"')
        return dict(found)

    def read(self, path: str) -> bytes:
        """Return a file, checked against its digest.

        Raises
        ------
        ArchiveError
        """
        if path not in self.digests:
            raise ArchiveError(f"the archive has no {path[:80]}")
        data = self._bytes(path)
        if sha256(data).hexdigest() != self.digests[path]:
            raise ArchiveError(f"{path[:80]} is not as it was written: its digest differs")
        return data

    def json(self, path: str) -> Any:
        """Return what a JSON file holds."""
        with _told(path):
            return _plain(self.read(path))

    def lines(self, path: str) -> list[Any]:
        """Return what the lines of a file hold, each JSON of its own."""
        with _told(path):
            return [_plain(line) for line in self.read(path).splitlines()]

    def _bytes(self, path: str) -> bytes:
        try:
            with self.zip.open(path) as stream:
                data = stream.read(MOST_FILE + 1)
        except KeyError:
            raise
        except BROKEN as error:
            raise ArchiveError(f"{path[:80]} can't be unpacked: {error}") from None
        if len(data) > MOST_FILE:
            raise ArchiveError(f"{path[:80]} unpacks to more than {MOST_FILE:,} bytes")
        return data


def read_archive(player: Player, file: IO[bytes]) -> dict[str, int]:
    """Bring in all that an archive holds; return how much of each there is.

    Raises
    ------
    ArchiveError
        Where the player has something already, or the archive is hostile, not whole or not as it was written;
        then nothing of it is kept.
    """
    bundle = _Bundle(file)
    with _files_undone(bundle), transaction.atomic():
        _refuse_full(player)
        _player(player, bundle)
        drills = _drills(player, bundle)
        exercises = _exercises(player, bundle)
        ladders = _ladders(player, bundle, exercises)
        pieces = _pieces(player, bundle, exercises)
        _plan(player, bundle, exercises)
        takes = _takes(player, bundle, exercises)
        _teaching(player, bundle)
        if stale():  # an earlier version wrote it
            rekey()
    return {
        "drills": drills,
        "exercises": len(exercises),
        "ladders": ladders,
        "pieces": pieces,
        "takes": takes,
    }


@contextmanager
def _files_undone(bundle: _Bundle) -> Iterator[None]:
    """Delete the files that were written where the rest fails: the database takes back only its own."""
    try:
        yield
    except BaseException:
        for sound in bundle.sounds:
            sound.file.storage.delete(str(sound.file.name))
        raise


def _check(infos: list[zipfile.ZipInfo]) -> None:
    """Refuse what no archive of ours has: paths that lead out, links, twins, bombs."""
    if len(infos) > MOST_FILES:
        raise ArchiveError(f"the archive holds {len(infos):,} files, allowed are {MOST_FILES:,}")
    for info in infos:
        path, name = PurePosixPath(info.filename), info.filename[:80]
        if path.is_absolute() or ".." in path.parts or "\\" in info.filename or "\x00" in info.filename:
            raise ArchiveError(f"{name!r} leads out of the archive, allowed are paths within it")
        if stat.S_ISLNK(info.external_attr >> 16):
            raise ArchiveError(f"{name!r} is a link, allowed are files")
    twins = [name for name, count in Counter(info.filename for info in infos).items() if count > 1]
    if twins:
        raise ArchiveError(f"{twins[0][:80]!r} stands twice in the archive, allowed is once")
    if (size := sum(info.file_size for info in infos)) > MOST_IN_ALL:
        raise ArchiveError(f"the archive unpacks to {size:,} bytes, allowed are {MOST_IN_ALL:,}")


def _refuse_full(player: Player) -> None:
    has = {
        "takes": Take.objects.of(player),
        "drills": OwnDrill.objects.of(player),
        "ladders": Ladder.objects.of(player),
        "pieces": Piece.objects.of(player).filter(is_draft=False),
        "a routine": Routine.objects.filter(player=player),
    }
    there = [name for name, rows in has.items() if rows.exists()]
    if there:
        raise ArchiveError(f"there are {' and '.join(there)} here already, allowed is an empty Giusto")
    Exercise.objects.of(player).delete()
    Session.objects.filter(player=player).delete()


def _player(player: Player, bundle: _Bundle) -> None:
    found = bundle.json(layout.PLAYER)
    with _told(layout.PLAYER):
        for name in layout.PLAYER_COLUMNS:
            setattr(player, name, found[name])
        _check_fields(player)
        player.save(update_fields=layout.PLAYER_COLUMNS)
        delivery = _columns(Delivery, found["delivery"], layout.DELIVERY_COLUMNS)
        Delivery.objects.update_or_create(player=player, defaults=delivery)
        for one in found.get("clicks", []):
            columns = _columns(OwnClick, one, layout.CLICK_COLUMNS)
            _kept(OwnClick(player=player, **columns, **sounding(b64decode(one["samples"], validate=True))))
        if "ear" in found:
            Ear.objects.update_or_create(player=player, defaults=_columns(Ear, found["ear"], layout.EAR_COLUMNS))
        for one in found.get("instruments", []):
            timbre(one["name"], one["shapes"])  # refused here, and not when a take is heard
            _kept(Instrument(player=player, **_columns(Instrument, one, layout.INSTRUMENT_COLUMNS)))
        for one in found.get("delays", []):
            _kept(Delay(player=player, **_columns(Delay, one, layout.DELAY_COLUMNS)))
    for one in bundle.json(layout.SESSIONS):
        with _told(layout.SESSIONS):
            _kept(Session(player=player, **_columns(Session, one, layout.SESSION_COLUMNS)))


def _drills(player: Player, bundle: _Bundle) -> int:
    rows = bundle.json(layout.DRILLS)
    for one in rows:
        with _told(layout.drill_path(one["id"])):
            spec = bundle.json(layout.drill_path(one["id"]))
            columns = _columns(OwnDrill, one, layout.DRILL_COLUMNS)
            _kept(OwnDrill(player=player, spec=spec, drill_key=drill_key(validate(spec)), **columns))
    return len(rows)


def _exercises(player: Player, bundle: _Bundle) -> dict[int, Exercise]:
    """Return the exercises by the numbers that they had."""
    found: dict[int, Exercise] = {}
    rows = bundle.json(layout.EXERCISES)
    with _told(layout.EXERCISES):
        for one in sorted(rows, key=lambda row: row["whole_id"] is not None):  # the whole before its parts
            columns = _columns(Exercise, one, layout.EXERCISE_COLUMNS)
            number, whole = columns.pop("id"), columns.pop("whole_id")
            made = Exercise(player=player, whole=found[whole] if whole is not None else None, **columns)
            found[number] = _kept(made)
    return found


def _ladders(player: Player, bundle: _Bundle, exercises: dict[int, Exercise]) -> int:
    rows = bundle.json(layout.LADDERS)
    for one in rows:
        with _told(layout.ladder_path(one["id"])):
            spec = ladder_of(bundle.json(layout.ladder_path(one["id"]))).plain()
            columns = _columns(Ladder, one, layout.LADDER_COLUMNS)
            exercise, created = exercises[columns.pop("exercise_id")], columns.pop("created_at")
            ladder = _kept(Ladder(player=player, exercise=exercise, spec=spec, **columns))
            Ladder.objects.filter(pk=ladder.pk).update(created_at=created)
            path = layout.attempts_path(one["id"], "elsewhere")
            if path in bundle.digests:
                attempts = parse_attempts(bundle.read(path), rungs=len(ladder.core.values))
                keep_attempts(player=player, ladder=ladder, attempts=attempts)
    return len(rows)


def _plan(player: Player, bundle: _Bundle, exercises: dict[int, Exercise]) -> None:
    found = bundle.json(layout.PLAN)
    spec: dict[str, Any] | None = None
    with _told(layout.PLAN):
        if found["routine"] is not None:
            spec = routine_of(bundle.json(layout.ROUTINE)).plain()
            _kept(Routine(player=player, spec=spec, **_columns(Routine, found["routine"], layout.ROUTINE_COLUMNS)))
        for one in found["weeks"]:
            _kept(Week(player=player, **_columns(Week, one, layout.WEEK_COLUMNS)))
        for one in found["days"]:
            _kept(Day(player=player, **_columns(Day, one, layout.DAY_COLUMNS)))
    if layout.ENTRIES not in bundle.digests:  # an earlier version wrote it, by names
        _bind(player, spec)
        return
    with _told(layout.ENTRIES):
        for one in bundle.json(layout.ENTRIES):
            columns = _columns(Entry, one, layout.ENTRY_COLUMNS)
            number = columns.pop("exercise_id")
            _kept(Entry(player=player, exercise=exercises[number] if number is not None else None, **columns))


def _bind(player: Player, spec: dict[str, Any] | None) -> None:
    days = list(player.days.exclude(over=[], swapped={}))
    entries = {name: str(one.pk) for name, one in bind(player, names_in(spec, [day.swapped for day in days])).items()}
    for day in days:
        day.over, day.swapped = by_entries(day.over, day.swapped, spec, entries)
        day.save(update_fields=["over", "swapped"])


def _pieces(player: Player, bundle: _Bundle, exercises: dict[int, Exercise]) -> int:
    rows = bundle.json(layout.PIECES)
    with _told(layout.PIECES):
        for one in rows:
            columns = _columns(Piece, one, layout.PIECE_COLUMNS)
            created = columns.pop("created_at")
            path = layout.score_path(one["id"])
            score = bundle.read(path) if path in bundle.digests else None
            piece = _kept(Piece(player=player, score=score, **columns))
            Piece.objects.filter(pk=piece.pk).update(created_at=created)
            for stretch in one["stretches"]:
                kept = _columns(Stretch, stretch, layout.STRETCH_COLUMNS)
                number = kept.pop("exercise_id")
                _kept(Stretch(piece=piece, exercise=exercises[number] if number is not None else None, **kept))
            for mark in one["marks"]:
                _kept(Mark(piece=piece, **_columns(Mark, mark, layout.MARK_COLUMNS)))
    return len(rows)


def _teaching(player: Player, bundle: _Bundle) -> None:
    """Bring in what teachers said and asked; what was agreed with them was agreed elsewhere, and is not."""
    if layout.TEACHING not in bundle.digests:
        return
    found = bundle.json(layout.TEACHING)
    with _told(layout.TEACHING):
        for one in found["remarks"]:
            _kept(Remark(player=player, **_own(player, _columns(Remark, one, layout.REMARK_COLUMNS))))
        for one in found["assignments"]:
            _kept(Assignment(player=player, **_own(player, _columns(Assignment, one, layout.ASSIGNMENT_COLUMNS))))


def _own(player: Player, columns: dict[str, Any]) -> dict[str, Any]:
    """Return columns whose take, ladder and piece are the player's own, or ValueError."""
    for name, model in (("take_id", Take), ("ladder_id", Ladder), ("piece_id", Piece)):
        pk = columns.get(name)
        if pk is not None and not model.objects.of(player).filter(pk=pk).exists():
            raise ValueError(f"{name} {str(pk)[:40]} is nothing of this archive's")
    return columns


def _takes(player: Player, bundle: _Bundle, exercises: dict[int, Exercise]) -> int:
    sessions = {session.day: session for session in Session.objects.filter(player=player)}
    folder = f"{layout.TAKES}/"
    names = sorted(path for path in bundle.digests if path.startswith(folder) and path.endswith("/take.json"))
    for path in names:
        with _told(path):
            _take(player, bundle, path.removesuffix("take.json"), exercises, sessions)
    return len(names)


def _take(
    player: Player, bundle: _Bundle, folder: str, exercises: dict[int, Exercise], sessions: dict[date, Session]
) -> None:
    kept = bundle.json(f"{folder}take.json")
    columns = _columns(Take, kept, layout.TAKE_COLUMNS)
    number, day = columns.pop("exercise_id"), kept["session"]
    take = Take(
        player=player,
        exercise=exercises[number] if number is not None else None,
        session=sessions[date.fromisoformat(day)] if day else None,
        drill=validate(bundle.json(f"{folder}drill.json")).plain(),
        **columns,
    )
    if folder != layout.take_path(take.pk, ""):
        raise ArchiveError(f"{folder}take.json is of another take, {take.pk}")
    _kept(take)
    lines = bundle.lines(f"{folder}batches.jsonl")
    for line in lines:
        checked(KeptBatch, line)
    Batch.objects.bulk_create(
        Batch(take=take, player=player, number=line["number"], notes=line["notes"], pairs=line["pairs"])
        for line in lines
    )
    if kept.get("sound"):
        sound = KeptSound(take=take, player=player, **_columns(KeptSound, kept["sound"], layout.SOUND_COLUMNS))
        sound.file.save(f"{take.pk}.flac", ContentFile(bundle.read(f"{folder}sound.flac")), save=False)
        bundle.sounds.append(sound)
        _kept(sound)
    if kept["reading"] is not None:
        spec = bundle.json(f"{folder}reading.json") if f"{folder}reading.json" in bundle.digests else {}
        if not isinstance(spec, dict):
            raise ArchiveError(f"{folder}reading.json is no object, allowed is a reading")
        beside = {name: kept[name] for name in layout.NOTES_COLUMNS if name in kept}
        columns = _columns(Reading, beside | kept["reading"], layout.READING_COLUMNS)
        reading = _kept(Reading(take=take, player=player, spec=spec, brief=brief_of(spec) if spec else None, **columns))
        if reading.found:
            rows = (silence_row(take, n, one) for n, one in enumerate(reading.found.silences, start=1))
            Silence.objects.bulk_create(rows)
    _once_read(take)


def _once_read(take: Take) -> None:
    """Load a take as its pages do and bring its notes into drill time, so that nothing comes in that can't be shown."""
    found = Take.objects.select_related("reading", "exercise", "player").get(pk=take.pk)
    _ = str(found), found.device, found.hearing
    if found.ended_how and found.has_notes and not found.hearing.is_by_sound:
        material_of(found)


def _columns(model: type[models.Model], found: Any, names: Iterable[str]) -> dict[str, Any]:
    """Return the columns of a row, with times as times; all but later ones must be there, no other is looked at."""
    columns = {}
    for name in names:
        if name in layout.LATER and name not in found:
            continue
        value, field = found[name], model._meta.get_field(name.removesuffix("_id") if name != "id" else "id")
        if isinstance(field, models.DateTimeField) and value is not None:
            value = _moment(value)
        columns[name] = value
    return columns


def _moment(text: Any) -> datetime:
    found = parse_datetime(text)
    if found is None or found.tzinfo is None:
        raise ValueError(f'"{str(text)[:40]}" is no time with an offset')
    _check_year(found)
    return found


def _check_year(day: date) -> None:
    if not EARLIEST < day.year < LATEST:  # a day's room on either side, whatever the offset
        raise ValueError(f'"{day.isoformat()}" lies outside the years {EARLIEST + 1} to {LATEST - 1}')


def _plain(data: bytes) -> Any:
    """Return what JSON says, numbers that are none refused."""

    def refuse(word: str) -> Any:
        raise ValueError(f"{word} is no number, allowed are finite ones")

    found = json.loads(data, parse_constant=refuse)
    return found


def _kept(row: Row) -> Row:
    """Save a new row whose fields are as its model wants them."""
    _check_fields(row)
    row.save(force_insert=True)
    return row


def _check_fields(row: models.Model) -> None:
    """Refuse values that the database would take and the site would not; empty is for the database to say."""
    faults: dict[str, list[str]] = {}
    for field in row._meta.concrete_fields:
        value = getattr(row, field.attname)
        if field.is_relation or value in (None, ""):
            continue
        try:
            found = field.to_python(value)
            field.run_validators(found)
            _check_value(field, found)
        except ValidationError as error:
            faults[field.name] = error.messages
            continue
        if field.flatchoices and found not in dict(field.flatchoices):
            faults[field.name] = [f'"{str(found)[:40]}" is none of its choices']
        setattr(row, field.attname, found)
    if faults:
        raise ValidationError(faults)


def _check_value(field: models.Field[Any, Any], value: Any) -> None:
    """Refuse what a column takes and no page can show.

    Raises
    ------
    ValidationError
    """
    if isinstance(value, float) and not math.isfinite(value):
        raise ValidationError(f"{value} is no number, allowed are finite ones")
    if isinstance(field, TypedJSONField) and not isinstance(value, BaseModel):
        raise ValidationError(f"{str(value)[:40]!r} is no object")
    if isinstance(value, date):
        try:
            _check_year(value)
        except ValueError as error:
            raise ValidationError(str(error)) from None


@contextmanager
def _told(path: str) -> Iterator[None]:
    """Say in which file something is wrong."""
    try:
        yield
    except ArchiveError:
        raise
    except ValidationError as error:
        told = "; ".join(f"{name}: {' '.join(some)}" for name, some in error.message_dict.items())
        raise ArchiveError(f"{path[:80]} can't be brought in: {told[:200]}") from None
    except KeyError as error:
        raise ArchiveError(f"{path[:80]} can't be brought in: {error} is missing") from None
    except WRONG as error:
        raise ArchiveError(f"{path[:80]} can't be brought in: {str(error).splitlines()[0][:200]}") from None

"""What an archive holds: its files, and which columns of each row are written into them.

Whatever can be worked out from something else is not written, but for the onsets and readings that other programs
may want, and the readings' columns, which spare reading everything anew.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from datetime import date, datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel

from studio.columns import plain as plain_json

VERSION = "archive/1"
MANIFEST, PLAYER, SESSIONS, EXERCISES = "manifest.json", "player.json", "sessions.json", "exercises.json"
DRILLS, LADDERS, PIECES, TAKES = "drills.json", "ladders.json", "pieces.json", "takes"
ROUTINE, PLAN, ENTRIES, TEACHING = "routine.json", "plan.json", "entries.json", "teaching.json"

PLAYER_COLUMNS = ("display_name", "instrument", "time_zone", "note_names", "counts")
DELIVERY_COLUMNS = (
    *("heard", "voice", "accent_voice", "level", "accent", "side", "counted", "seen", "felt", "care_read_at"),
)
CLICK_COLUMNS = ("name", "pitch_hz", "made_at", "put_away_at")  # and its samples, base64
EAR_COLUMNS = (
    "by",
    "microphone",
    "port",
    "channel",
    "keeps_sound",
    "counts_in",
    "counts_by",
    "pads",
    "pad_names",
    "threshold_db",
    "refractory_s",
    "sound",
    "bleed_db",
    "noise_db",
    "delay_ms",
)
DELAY_COLUMNS = ("by", "device", "browser", "delay_ms", "low_ms", "high_ms", "count", "measured_at")
INSTRUMENT_COLUMNS = ("name", "shapes", "softest_db", "closest_s", "learned_at")
SOUND_COLUMNS = ("bytes", "zero_s", "rate")
# Columns that the first archives lack: then as in a new row.
LATER = (
    "hearing",
    "sections",
    "side",
    "off_at",
    "onsets_s",
    "strengths",
    "sources",
    "counted",
    "accent_voice",
    "pad_names",
    "softest_db",
    "closest_s",
)
DRILL_COLUMNS = ("id", "name", "family", "deleted_at")
EXERCISE_COLUMNS = (
    "id",
    "shelf_slug",
    "own_drill_id",
    "climbs",
    "key",
    "name",
    "whole_id",
    "hand",
    "music_key",
    "section",
    "next_time",
    "note",
)
SESSION_COLUMNS = ("day", "is_off", "off_at")
LADDER_COLUMNS = (
    "id",
    "exercise_id",
    "name",
    "slug",
    "spread_percent",
    "missed_percent",
    "fused_cycles",
    "place_ms",
    "created_at",
    "deleted_at",
)
ROUTINE_COLUMNS = ("repeats", "low", "high", "weekly_minutes", "alarm_minutes")
WEEK_COLUMNS = ("monday", "days", "goal")
DAY_COLUMNS = ("day", "minutes", "began_at", "closed_at", "over", "swapped")
ENTRY_COLUMNS = ("id", "name", "exercise_id", "piece_id", "own_drill_id", "slug")
PIECE_COLUMNS = (
    "id",
    "name",
    "goal_bpm",
    "found_bpm",
    "school",
    "click",
    "first_bar",
    "last_bar",
    "begins",
    "by_hands",
    "music",
    "beats",
    "grid",
    "score_name",
    "note",
    "created_at",
    "deleted_at",
)
STRETCH_COLUMNS = ("kind", "first_bar", "last_bar", "learned_at", "exercise_id")
MARK_COLUMNS = ("bar", "beat", "sort", "note")
TAKE_COLUMNS = (
    "id",
    "exercise_id",
    "drill_key",
    "rung_key",
    "drill_name",
    "family",
    "tempo_bpm",
    "beats",
    "cycles",
    "silent_cycles",
    "slots",
    "input",
    "simulated",
    "device",
    "hearing",
    "sections",
    "zero_audio_s",
    "started_at",
    "ended_how",
    "batch_count",
    "said_clean",
    "note",
    "deleted_at",
)
# What a studio added: remarks and assignments come back in; consents and who looked are there to be read.
REMARK_COLUMNS = (
    "by_name",
    "take_id",
    "silence",
    "ladder_id",
    "rung",
    "piece_id",
    "bar",
    "text",
    "at",
    "changed_at",
    "put_away_at",
)
ASSIGNMENT_COLUMNS = (
    "by_name",
    "kind",
    "name",
    "spec",
    "goal",
    "due",
    "at",
    "accepted_at",
    "put_away_at",
    "taken_back_at",
    "drill_key",
    "ladder_id",
    "piece_id",
)
CONSENT_COLUMNS = ("scopes", "since", "begun_at", "until", "withdrawn_at")
LINE_COLUMNS = ("by", "what", "at")
NOTES_COLUMNS = ("onsets_s", "strengths", "sources")  # of a reading; the first archives have them beside it
READING_COLUMNS = (
    "core_version",
    "sizes",
    "verdict",
    "is_clean",
    "margins",
    "played_s",
    "alone_bpm",
    "heard_ms",
    "heard_sd_ms",
    "interval_sd_ms",
    "clock_sd_ms",
    "motor_sd_ms",
    "alpha",
    "swing",
    "tempo_percent",
    "thread",
    "sketch",
    "refusal",
    "refusal_code",
    *NOTES_COLUMNS,
)


class ArchiveError(ValueError):
    """An archive can't be made or brought in; the text says where, what, and what is allowed."""


def drill_path(pk: Any) -> str:
    """Return where an own drill's file lies."""
    return f"drills/{pk}.json"


def ladder_path(pk: Any) -> str:
    """Return where a ladder's file lies."""
    return f"ladders/{pk}.json"


def attempts_path(pk: Any, which: str) -> str:
    """Return where a ladder's attempts lie: ``all`` that count, or those from ``elsewhere``."""
    return f"ladders/{pk}-{which}.csv"


def score_path(pk: Any) -> str:
    """Return where a piece's score lies, as it came."""
    return f"pieces/{pk}.score"


def take_path(pk: Any, name: str) -> str:
    """Return where a file of a take lies."""
    return f"{TAKES}/{pk}/{name}"


def plain(row: Any, columns: Iterable[str]) -> dict[str, Any]:
    """Return some columns of a row as what JSON takes."""
    return {name: _plain(getattr(row, name)) for name in columns}


def text(value: Any) -> str:
    """Return a value as the text of a JSON file; numbers come back exactly as they were."""
    return json.dumps(value, indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def _plain(value: Any) -> Any:
    if isinstance(value, UUID):
        return str(value)
    if isinstance(value, BaseModel):
        return plain_json(value)
    return value.isoformat() if isinstance(value, datetime | date) else value

"""Routines to begin with: five minutes, twenty, an hour. The order and the hour are common practice."""

from __future__ import annotations

from typing import Any

# Ladders that are ready, and a drill of the shelf, by their names.
RIGHT = "Mostly right, a miss now and then"  # a rule that rises with a few takes a day; streaks need more
LONGER, FOURS, BACK = "One, two, three … bars alone", "From 60 to 120 in fours", "Whole to eighth and back"

PRESETS: dict[str, tuple[str, str, dict[str, Any]]] = {
    "five": (
        "Five minutes",
        "Time to settle and one thing.",
        {
            "days": ["mon", "tue", "wed", "thu", "fri", "sat", "sun"],
            "minutes": 5,
            "blocks": [
                {"name": "warm-up", "minutes": [1, 2]},
                {"name": "technique", "minutes": [3, 8], "flexible": True},
            ],
            "exercises": [
                {"name": "Every beat", "block": "warm-up", "minutes": 2},
                {"name": RIGHT, "block": "technique", "minutes": 4, "ladder": RIGHT},
            ],
        },
    ),
    "twenty": (
        "Twenty minutes",
        "Warm-up, two exercises, something of your own.",
        {
            "days": ["mon", "tue", "wed", "thu", "fri"],
            "minutes": 20,
            "blocks": [
                {"name": "warm-up", "minutes": [3, 4]},
                {"name": "technique", "minutes": [8, 14]},
                {"name": "application", "minutes": [5, 12], "flexible": True},
            ],
            "exercises": [
                {"name": "Every beat", "block": "warm-up", "minutes": 4},
                {"name": LONGER, "block": "technique", "minutes": 6, "ladder": LONGER},
                {"name": "Reach", "block": "technique", "minutes": 4},
            ],
        },
    ),
    "hour": (
        "An hour",
        "Loose warm-up, technique, then application, which stretches and shrinks.",
        {
            "days": ["mon", "tue", "wed", "thu", "fri"],
            "minutes": 60,
            "blocks": [
                {"name": "warm-up", "minutes": [5, 10]},
                {"name": "technique", "minutes": [20, 35]},
                {"name": "application", "minutes": [15, 30], "flexible": True},
            ],
            "exercises": [
                {"name": "Every beat", "block": "warm-up", "minutes": 4},
                {"name": BACK, "block": "warm-up", "minutes": 4, "season": {"weeks_on": 4, "weeks_off": 4}},
                {"name": FOURS, "block": "technique", "minutes": 10, "ladder": FOURS},
                {"name": LONGER, "block": "technique", "minutes": 8, "ladder": LONGER},
                {"name": "Reach", "block": "technique", "minutes": 8},
            ],
        },
    ),
}


def preset(key: str, *, zone: str, monday: str) -> dict[str, Any]:
    """Return a routine of the presets, in a time zone; its seasons begin on a Monday."""
    plain = PRESETS[key][2]
    exercises = [
        {**one, "season": {"from": monday, **one["season"]}} if "season" in one else dict(one)
        for one in plain["exercises"]
    ]
    return {"giusto": "routine/1", "start": "18:00", "zone": zone, **plain, "exercises": exercises}

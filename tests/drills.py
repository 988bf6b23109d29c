"""Drills that tests play."""

from typing import Any

from giusto.drill import validate
from giusto.schedule import Schedule, schedule


def plain(**changes: Any) -> dict[str, Any]:
    """Return two heard, two silent at 96, with fields changed: ``bpm=120``, ``grid=4``, ``silence=None``."""
    beats = changes.get("beats", 4)
    return {
        "giusto": "drill/3" if "swing" in changes else "drill/1",
        "name": changes.get("name", "Two bars alone"),
        "tempo": {"bpm": changes.get("bpm", 96), "beat": "1/4"},
        "cycle": {"beats": beats, "groups": changes.get("groups", [beats])},
        "clicks": {
            "on": changes.get("on", [str(beat + 1) for beat in range(beats)]),
            "every": changes.get("every", 1),
            "silence": changes.get("silence", {"kind": "fixed", "heard": 2, "silent": 2}),
            "shift": changes.get("shift"),
            "accent": changes.get("accent", "none"),
            "subdivide": changes.get("subdivide", 1),
            **({"swing": changes["swing"]} if "swing" in changes else {}),
        },
        "part": {"grid": changes.get("grid", 2), "play": changes.get("play", "grid")},
        "count_in": changes.get("count_in", 1),
        "cycles": changes.get("cycles", 16),
        "close": changes.get("close", 1),
    }


def planned(**changes: Any) -> Schedule:
    """Return the schedule of such a drill."""
    return schedule(validate(plain(**changes)))


def fixed(heard: int, silent: int) -> dict[str, Any]:
    """Return a fixed silence."""
    return {"kind": "fixed", "heard": heard, "silent": silent}


def climbing(bpm: float = 60, *, cycles: int = 16, heard: int = 4, silent: int = 4, **steps: Any) -> dict[str, Any]:
    """Return a ``drill/2`` whose tempo changes, 2 faster every 4 cycles up to 120, with fields of its steps changed."""
    return plain(bpm=bpm, cycles=cycles, silence=fixed(heard, silent)) | {
        "giusto": "drill/2",
        "tempo": {"bpm": bpm, "beat": "1/4", "steps": {"every_cycles": 4, "by": 2, "to": 120} | steps},
    }

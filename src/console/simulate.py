"""Let a simulated player play a drill; its onsets as CSV."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import fields
from pathlib import Path

from console.files import read_schedule
from giusto.notes.csv_file import write_notes
from giusto.notes.record import notes_of
from giusto.schedule import Schedule
from giusto.simulation.player import RANGES, SimulatedPlayer, SimulatedTake, simulate

HELP = {
    "bias_percent": "tempo in the silences over the tempo asked; above 0 rushes",
    "clock_percent": "spread of the inner clock, in percent of an interval",
    "clock_lag": "how far one interval of the clock is like the one before, their autocorrelation",
    "wander_percent": "spread of a slow (1/f) wander of the clock, in percent of an interval",
    "hand_ms": "spread that the hand adds to each note",
    "place_ms": "place against the click; below 0 is early",
    "alpha": "share of the error that each heard click takes back",
    "missed": "share of asked notes not played",
    "extra": "share of notes added",
    "slip_beats": "beats gained (above 0) or lost at once in each silence",
    "density": "share of the slots played where the part is free",
}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments: one for each figure of the player."""
    parser.add_argument("drill", metavar="DRILL.json")
    parser.add_argument("--seed", type=int, required=True, help="the same seed plays the same take")
    for field in fields(SimulatedPlayer):
        low, high = RANGES[field.name]
        flag = "--" + field.name.removesuffix("_percent").removesuffix("_ms").replace("_", "-")
        shown = f"{HELP[field.name]} ({low:g} to {high:g}, {field.default:g} unless given)"
        parser.add_argument(flag, dest=field.name, type=float, default=field.default, help=shown)
    parser.add_argument("--wav", type=Path, metavar="OUT.wav", help="what a recorder hears of it, as sound")
    parser.add_argument("--sound", default="skin", help="skin, wood, string or metal (skin)")
    parser.add_argument("--bleed", type=float, metavar="DB", help="level of the click in the recording (headphones)")
    parser.add_argument("--noise", type=float, default=-60.0, metavar="DB", help="of the room (-60)")
    parser.add_argument("--delay-ms", type=float, default=0.0, metavar="MS", help="from loudspeaker to recording (0)")
    parser.add_argument("--ppm", type=float, default=0.0, help="how much faster the recorder's clock runs (0)")
    parser.add_argument("--truth", metavar="FILE", help="write the true drift and return of each silence as JSON")


def run(chosen: argparse.Namespace) -> None:
    """Write the onsets, and the truth where asked for."""
    plan = read_schedule(chosen.drill)
    player = SimulatedPlayer(**{field.name: getattr(chosen, field.name) for field in fields(SimulatedPlayer)})
    take = simulate(plan, player, seed=chosen.seed)
    if chosen.truth:
        Path(chosen.truth).write_text(json.dumps(_truth(take), indent=1) + "\n", encoding="utf-8")
    if chosen.wav:
        _write_sound(chosen, plan, take)
    sys.stdout.write(write_notes(notes_of(take.onsets_s)))


def _write_sound(chosen: argparse.Namespace, plan: Schedule, take: SimulatedTake) -> None:
    import soundfile

    from giusto.simulation.instrument import RATE_HZ, Room, recording

    room = Room(chosen.sound, chosen.bleed, chosen.noise, chosen.delay_ms, chosen.ppm)
    samples = recording(plan, take.onsets_s, room, seed=chosen.seed)
    chosen.wav.open("wb").close()
    soundfile.write(chosen.wav, samples, RATE_HZ, subtype="PCM_24", format="WAV")


def _truth(take: SimulatedTake) -> dict[str, list[float]]:
    return {
        "drift_ms": [round(1000 * s, 3) for s in take.drift_s.tolist()],
        "return_ms": [round(1000 * s, 3) for s in take.return_s.tolist()],
        "asked": take.asked.tolist(),
    }

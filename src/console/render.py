"""Write the click of a drill as sound (WAV, FLAC) or as a Standard MIDI File."""

from __future__ import annotations

import argparse
from pathlib import Path

from console.files import read_schedule
from giusto.drill.counting import SYLLABLES
from giusto.errors import GiustoError


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("drill", metavar="DRILL.json")
    parser.add_argument("out", metavar="OUT", help="a file that ends in .wav, .flac or .mid")
    parser.add_argument("--voice", default="wood", help="wood, pin, felt (soft) or low; wood unless given")
    parser.add_argument(
        "--count", default="", choices=["", *SYLLABLES], help="count each click aloud: " + ", ".join(SYLLABLES)
    )
    parser.add_argument("--rate", type=int, default=48_000, help="44100 or 48000 samples a second")


def run(chosen: argparse.Namespace) -> None:
    """Write the file."""
    plan, out = read_schedule(chosen.drill), Path(chosen.out)
    if out.suffix.lower() == ".mid":
        if chosen.count:
            raise GiustoError("a MIDI file has no voice that counts, allowed are .wav and .flac", code="count")
        from giusto.click.midi import write_midi

        write_midi(plan, out)
    else:
        from giusto.click.sound import write_sound

        write_sound(plan, out, voice=chosen.voice, rate_hz=chosen.rate, counted=chosen.count)

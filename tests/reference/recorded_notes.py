"""Recorded notes for ``./giusto bench --hearing --kit DIR``, from Debian: fetched when wanted, never kept here.

Run as a program, ``python -m tests.reference.recorded_notes DIR``: needs apt, and no rights of root.
"""

from __future__ import annotations

import struct
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from scipy.signal import resample_poly

from giusto.arrays import FloatArray

RATE_HZ = 44_100
LASTS_S, FADES_S = 1.2, 0.2
PACKAGES = ("freepats", "sonic-pi-samples", "hydrogen-data")
STRUCK = {
    "tabla open": "tabla_tun1",
    "tabla closed": "tabla_ke1",
    "tabla bass": "tabla_ghe1",
    "bell": "perc_bell",
    "finger snap": "perc_snap",
    "cowbell": "drum_cowbell",
    "crash": "drum_cymbal_hard",
    "snare": "drum_snare_hard",
    "kick": "drum_heavy_kick",
}
KIT = {
    "closed hat": "HatClosed-Hard",
    "open hat": "HatOpen-Hard",
    "pedal hat": "HatPedal-Hard",
    "ride": "Ride-Hard",
    "hand clap": "HandClap",
    "side stick": "SideStick-Hard",
    "low tom": "TomFloor-Hard",
}
PATCHES = {"piano": "000", "nylon guitar": "024", "steel guitar": "025", "acoustic bass": "032", "violin": "040"}
MIDDLE_C_HZ = 261.6
# The format of these patches, as their players read it (from memory): three headers, then each sample with its own.
HEADERS, COUNT_AT, SAMPLE_HEADER = 129 + 63 + 47, 129 + 63 + 6, 96
SIXTEEN_BITS, UNSIGNED = 1, 2


def patch_note(data: bytes) -> FloatArray:
    """Return the sample of a patch that is nearest to middle C."""
    at, found = HEADERS, []
    for _ in range(data[COUNT_AT]):
        size, _, _, rate_hz, _, _, root = struct.unpack_from("<IIIHIII", data, at + 8)
        modes = data[at + 55]
        raw = data[at + SAMPLE_HEADER : at + SAMPLE_HEADER + size]
        samples = np.frombuffer(raw, "<i2" if modes & SIXTEEN_BITS else "i1").astype(np.float64)
        if modes & UNSIGNED:
            samples = samples - 2 ** (15 if modes & SIXTEEN_BITS else 7)
        found.append((abs(np.log(root / 1000 / MIDDLE_C_HZ)), rate_hz, samples))
        at += SAMPLE_HEADER + size
    _, rate_hz, samples = min(found, key=lambda one: one[0])
    return at_rate(samples, rate_hz)


def at_rate(samples: FloatArray, rate_hz: int) -> FloatArray:
    """Return samples at the rate of the bench."""
    return samples if rate_hz == RATE_HZ else resample_poly(samples, RATE_HZ, rate_hz)


def one_note(samples: FloatArray) -> FloatArray:
    """Return a note as long as the bench plays one, faded where it is cut, its peak 1."""
    note = samples[: round(LASTS_S * RATE_HZ)].copy()
    fades = min(note.size, round(FADES_S * RATE_HZ))
    if samples.size > note.size:
        note[-fades:] *= np.linspace(1, 0, fades)
    return note / np.max(np.abs(note))


def fetch(to: Path) -> None:
    """Write one file a note into a folder."""
    to.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run(["apt-get", "download", *PACKAGES], cwd=folder, check=True)
        for package in Path(folder).glob("*.deb"):
            subprocess.run(["dpkg", "-x", package.name, "."], cwd=folder, check=True)
        share = Path(folder) / "usr/share"
        for name, called in STRUCK.items():
            samples, rate_hz = soundfile.read(share / f"sonic-pi/samples/{called}.flac", always_2d=True)
            soundfile.write(to / f"{name}.flac", one_note(at_rate(samples.mean(axis=1), rate_hz)), RATE_HZ)
        for name, called in KIT.items():
            samples, rate_hz = soundfile.read(share / f"hydrogen/data/drumkits/GMRockKit/{called}.wav", always_2d=True)
            soundfile.write(to / f"{name}.flac", one_note(at_rate(samples.mean(axis=1), rate_hz)), RATE_HZ)
        for name, number in PATCHES.items():
            (patch,) = (share / "midi/freepats/Tone_000").glob(f"{number}_*.pat")
            soundfile.write(to / f"{name}.flac", one_note(patch_note(patch.read_bytes())), RATE_HZ)


if __name__ == "__main__":
    fetch(Path(sys.argv[1]))

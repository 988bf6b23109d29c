"""The table of hearing: F, bias and SD by sound and noise; speed beside librosa and aubio, where they are installed."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing.onsets import onsets
from giusto.hearing.sound import Samples
from giusto.simulation.hearing_benchmark import (
    FAST,
    NOISES_DB,
    PLACES,
    STROKES,
    HearingScore,
    Sounding,
    apart,
    heard,
    recorded,
    soundings,
    taken,
)
from giusto.simulation.instrument import RATE_HZ, SOUNDS, strike

TURNS = 7  # the fastest of them counts
BEGINS = 0.01  # of the peak: where a recorded stroke begins
KINDS = (".wav", ".flac")
ONE_STRING = ("piano", "guitar", "acoustic bass", "violin")  # a note ends the one before it on the same string


def print_hearing(*, seed: int, kit: Path | None) -> None:
    """Print how well onsets are heard, of our own sounds or of the recorded strokes in a folder, then how fast."""
    print(f"\n{'sound':>28} {'noise':>6} {'F':>6} {'bias ms':>8} {'SD ms':>6}")
    takes = list(soundings(seed=seed)) if kit is None else list(_of_kit(kit, seed=seed))
    for one in takes:
        found = heard(one)
        row = f"{found.f:6.3f} {found.bias_ms:8.2f} {found.sd_ms:6.2f}"
        print(f"{one.name[-28:]:>28} {one.noise_db:6.0f} {row}")
        sys.stdout.flush()
    _recorded([one for one in takes if one.noise_db == NOISES_DB[0] and one.name != FAST], seed=seed)
    _apart(takes, seed=seed, kit=kit)
    _speed(takes[0])


def _recorded(takes: list[Sounding], *, seed: int) -> None:
    """Print F, bias and SD of each take as it is recorded in each place."""
    print(f"\n{'F, bias, SD in ms':>28} " + " ".join(f"{place:>16}" for place in PLACES))
    for one in takes:
        found = [heard(there) for _, there in recorded(one, seed=seed)]
        row = " ".join(f"{score.f:5.2f} {score.bias_ms:+5.1f} {score.sd_ms:4.1f}" for score in found)
        print(f"{one.name[-28:]:>28} {row}")
        sys.stdout.flush()


def _apart(takes: list[Sounding], *, seed: int, kit: Path | None) -> None:
    """Print how well two instruments are told apart: those that stand next to each other in the table above."""
    if kit is None:
        each = {
            name: [strike(name, np.random.default_rng([seed, k]), rate_hz=RATE_HZ) for k in range(20)]
            for name in SOUNDS
        }
    else:
        each = {path.stem: [stroke] * 20 for path, stroke in _strokes(kit)}
    names = list(each)
    print(f"\n{'learned from ten strokes':>44} {'right':>6}")
    for one, other in zip(names, names[1:] + names[:1], strict=True):
        stops = one.endswith(ONE_STRING) or other.endswith(ONE_STRING)
        share = apart({one: each[one], other: each[other]}, seed=seed, stops=stops)
        print(f"{f'{one}, {other}'[-44:]:>44} {share:6.2f}")


def _of_kit(kit: Path, *, seed: int) -> list[Sounding]:
    """Return takes of recorded strokes: each file of a folder is one sound, cut to where it begins."""
    found = []
    for path, stroke in _strokes(kit):
        strokes, stops = [stroke] * STROKES, path.stem.endswith(ONE_STRING)
        found += [taken(path.stem, strokes, noise_db=noise, seed=seed, stops=stops) for noise in NOISES_DB]
        if stops:
            found.append(taken(f"{path.stem}, rings on", strokes, noise_db=NOISES_DB[0], seed=seed))
    if not found:
        raise GiustoError(f"{kit} has no stroke at {RATE_HZ} Hz, allowed are .wav and .flac", code="kit")
    return found


def _strokes(kit: Path) -> Iterator[tuple[Path, FloatArray]]:
    """Give the recorded strokes of a folder, each cut to where it begins, its peak 1."""
    for path in sorted(one for one in kit.rglob("*") if one.suffix.lower() in KINDS):
        samples, rate_hz = soundfile.read(path, always_2d=True)
        if rate_hz != RATE_HZ:
            continue
        mono = samples.mean(axis=1)
        peak = float(np.max(np.abs(mono), initial=0.0))
        if not peak:
            continue
        begins = int(np.argmax(np.abs(mono) >= BEGINS * peak))
        yield path, mono[begins:] / peak


def _speed(one: Sounding) -> None:
    """Print how long the same take takes, in turns: whatever else the machine does, it does to all of them."""
    samples = one.samples.astype(np.float32)
    works = {
        "giusto": lambda: onsets(Samples(samples, RATE_HZ)).onset_s,
        "librosa, hop 64": _librosa(samples),
        "aubio, hfc 1024/256": _aubio(samples),
    }
    here = {name: work for name, work in works.items() if work}
    found = {name: work() for name, work in here.items()}  # and what has to be loaded, is
    times: dict[str, list[float]] = {name: [] for name in here}
    for _ in range(TURNS):
        for name, work in here.items():
            start = time.perf_counter()
            work()
            times[name].append(time.perf_counter() - start)
    print(f"\n{'onsets of the first take':>28} {'F':>6} {'bias ms':>8} {'SD ms':>6} {'time':>8}")
    for name in works:
        if name in here:
            _line(name, heard(one, found[name]), min(times[name]) / min(times["giusto"]))
        else:
            print(f"{name:>28} is not installed here (./giusto test installs it)")


def _line(name: str, found: HearingScore, ratio: float) -> None:
    print(f"{name:>28} {found.f:6.3f} {found.bias_ms:8.2f} {found.sd_ms:6.2f} {ratio:6.2f} ×")


def _librosa(samples: NDArray[np.float32]) -> Callable[[], FloatArray] | None:
    try:
        from librosa.onset import onset_detect
    except ImportError:
        return None
    return lambda: np.asarray(onset_detect(y=samples, sr=RATE_HZ, hop_length=64, units="time"), dtype=np.float64)


def _aubio(samples: NDArray[np.float32]) -> Callable[[], FloatArray] | None:
    try:
        import aubio
    except ImportError:
        return None

    def work() -> FloatArray:
        detector = aubio.onset("hfc", 1024, 256, RATE_HZ)
        blocks = (samples[start : start + 256] for start in range(0, samples.size - 256, 256))
        return np.array([detector.get_last_s() for block in blocks if detector(block)])

    return work

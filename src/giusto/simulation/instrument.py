"""A simulated instrument in a room: four sounds of our own making, bleed, noise, a recorder's delay and clock."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giusto.arrays import FloatArray
from giusto.click.sound import blocks
from giusto.click.voice import AnyVoice
from giusto.errors import GiustoError
from giusto.schedule import Schedule

SOUNDS = ("skin", "wood", "string", "metal")
LENGTH_S = {"skin": 0.35, "wood": 0.12, "string": 1.2, "metal": 0.9}
LEAD_S, TAIL_S = 1.0, 1.5  # before the drill's time zero, and after its end
LOUDEST, SOFTEST = 0.5, 0.16
RATE_HZ = 44_100
AT_ONCE = 256  # samples


@dataclass(frozen=True, slots=True)
class Room:
    """What a recording is made in, and with.

    Attributes
    ----------
    sound : str
        One of ``SOUNDS``.
    bleed_db : float or None
        Level of the click in the recording against full scale; None for headphones.
    noise_db : float or None
    delay_ms : float
        From the loudspeaker, or the string, to the recording.
    ppm : float
        How much faster the recorder's clock runs than the player of the click, in millionths.
    """

    sound: str = "skin"
    bleed_db: float | None = None
    noise_db: float | None = -60.0
    delay_ms: float = 0.0
    ppm: float = 0.0

    def __post_init__(self) -> None:
        """Refuse what is out of range.

        Raises
        ------
        GiustoError
        """
        if self.sound not in SOUNDS:
            raise GiustoError(f'sound is "{self.sound[:40]}", allowed are {", ".join(SOUNDS)}', code="sound")
        for name, low, high in (("bleed_db", -80, 0), ("noise_db", -120, 0), ("delay_ms", 0, 2000), ("ppm", -500, 500)):
            value = getattr(self, name)
            if value is not None and not low <= value <= high:
                raise GiustoError(f"{name} is {value:g}, allowed are {low} to {high}", code="range")


def strike(sound: str, generator: np.random.Generator, *, rate_hz: int) -> FloatArray:
    """Return one stroke; its first sample is its onset, its peak is 1."""
    time_s = np.arange(round(LENGTH_S[sound] * rate_hz)) / rate_hz
    noise = generator.standard_normal(time_s.size)
    pitch_hz = {"skin": 110.0, "wood": 880.0, "string": 220.0, "metal": 590.0}[sound] * (1 + 0.01 * generator.normal())
    partials = {
        "skin": ((1.0, 1.0, 14.0), (1.59, 0.6, 20.0), (2.14, 0.4, 26.0)),
        "wood": ((1.0, 1.0, 60.0), (2.76, 0.5, 90.0), (5.4, 0.2, 130.0)),
        "string": tuple((float(k), 1.0 / k, 2.0 + 0.8 * k) for k in range(1, 12)),
        "metal": ((1.0, 1.0, 5.0), (1.83, 0.8, 6.0), (2.71, 0.7, 8.0), (4.17, 0.5, 10.0)),
    }[sound]
    tone = np.zeros(time_s.size)
    for ratio, weight, decay in partials:
        tone += weight * _ringing(decay, pitch_hz * ratio, rate_hz=rate_hz, frames=time_s.size)
    attack = {"skin": 0.5, "wood": 0.3, "string": 0.25, "metal": 0.3}[sound]
    whole = tone * np.minimum(1.0, 0.2 + time_s / 0.002) + attack * noise * np.exp(-time_s / 0.006)
    found: FloatArray = whole / np.max(np.abs(whole))
    return found


def _ringing(decay: float, pitch_hz: float, *, rate_hz: int, frames: int) -> FloatArray:
    """Return a cosine that dies away by ``exp(-decay t)``: powers of one complex number, as products of two of them."""
    step = complex(-decay, 2 * np.pi * pitch_hz) / rate_hz
    long, short = np.exp(step * AT_ONCE * np.arange(-(-frames // AT_ONCE))), np.exp(step * np.arange(AT_ONCE))
    found: FloatArray = (np.outer(long.real, short.real) - np.outer(long.imag, short.imag)).ravel()[:frames]
    return found


def recording(
    plan: Schedule,
    onsets_s: FloatArray,
    room: Room,
    *,
    seed: int,
    rate_hz: int = RATE_HZ,
    voice: AnyVoice = "wood",
) -> FloatArray:
    """Return what a recorder hears of a take: mono, −1 to 1, from a second before the drill's time zero.

    Parameters
    ----------
    plan : Schedule
    onsets_s : array of float
        Of the played notes, drill time.
    room : Room
    seed : int
    rate_hz : int
        44,100 or 48,000 where the click bleeds.
    voice : str or OwnSound
        Of the click.
    """
    generator = np.random.default_rng(seed)
    rate = rate_hz * (1 + room.ppm * 1e-6)
    start_s = LEAD_S + room.delay_ms / 1000
    end_s = max(float(plan.seconds(plan.end_tick)), float(onsets_s[-1]) if onsets_s.size else 0.0)
    total = round((start_s + end_s + TAIL_S) * rate)
    found = np.zeros(total)
    for onset_s, loud in zip(
        onsets_s.tolist(), generator.uniform(SOFTEST, LOUDEST, onsets_s.size).tolist(), strict=True
    ):
        _add(found, loud * strike(room.sound, generator, rate_hz=rate_hz), (start_s + onset_s) * rate)
    if room.bleed_db is not None:
        click = np.concatenate([*blocks(plan, voice=voice, rate_hz=rate_hz)]).astype(np.float64)
        _bleed(found, click, room, rate_hz=rate_hz, start=start_s * rate, stretch=rate / rate_hz)
    if room.noise_db is not None:
        found += 10 ** (room.noise_db / 20) * generator.standard_normal(total)
    return np.clip(found, -1.0, 1.0)


def _bleed(found: FloatArray, click: FloatArray, room: Room, *, rate_hz: int, start: float, stretch: float) -> None:
    """Add the click as a loudspeaker and a room give it, on the recorder's clock."""
    at = (np.arange(found.size) - start) / stretch
    heard = np.interp(at, np.arange(click.size), click, left=0.0, right=0.0)
    echo = round(0.007 * rate_hz)
    heard[echo:] += 0.25 * heard[:-echo]
    peak = float(np.max(np.abs(heard)))
    if peak > 0 and room.bleed_db is not None:
        found += 10 ** (room.bleed_db / 20) / peak * heard


def _add(found: FloatArray, stroke: FloatArray, at: float) -> None:
    """Add a stroke at a place between samples."""
    whole = int(np.floor(at))
    part = at - whole
    moved = np.concatenate([stroke, [0.0]]) * (1 - part) + np.concatenate([[0.0], stroke]) * part
    end = min(whole + moved.size, found.size)
    if 0 <= whole < found.size:
        found[whole:end] += moved[: end - whole]

"""A take through the microphone of the machine that played the click: its frames are the click's own clock."""

from __future__ import annotations

from dataclasses import dataclass

from giusto.click.voice import AnyVoice
from giusto.hearing.delay import MOST_S
from giusto.hearing.faint import find_faint
from giusto.hearing.find_click import find_click
from giusto.hearing.level import Gate
from giusto.hearing.onsets import onsets
from giusto.hearing.others import remarks_of
from giusto.hearing.recorder_clock import ClockLine
from giusto.hearing.recording import AFTER_S, BEFORE_S, Recording
from giusto.hearing.sound import Sound
from giusto.hearing.timbre import LEFT_OUT, Timbre, told_apart
from giusto.hearing.without_click import WithoutClick, lasting
from giusto.notes.record import notes_of
from giusto.schedule import Schedule

EARLY_S = 0.010  # what a delay may seem to be below nothing
NEAR_KNOWN_S = 0.100  # how far from its calibration a delay is looked for first
UNCALIBRATED = (
    "the click is not heard through the microphone and its delay was not calibrated: your place with the click includes"
    " the delay of the machine"
)


@dataclass(frozen=True, slots=True)
class KnownOfSound:
    """What is known beforehand of a take's sound.

    Attributes
    ----------
    zero_s : float
        When the drill's time zero was sent to the loudspeaker, in seconds of the sound.
    zero_half_s : float
        How far off that may be, where another clock told it.
    delay_s : float or None
        From loudspeaker to microphone, where it was calibrated.
    voice : str or OwnSound
        Of the click.
    gate : Gate
    timbres : tuple of Timbre
        Of the player's instruments, where they were learned.
    """

    zero_s: float
    delay_s: float | None
    voice: AnyVoice
    gate: Gate
    timbres: tuple[Timbre, ...] = ()
    zero_half_s: float = 0.0


def through_microphone(sound: Sound, plan: Schedule, known: KnownOfSound) -> Recording:
    """Return the notes of a take, or of a part of one, in drill time; the click that is heard is taken out.

    What a note was played on stands in its source, where that was learned.

    Parameters
    ----------
    sound : Sound
    plan : Schedule
    known : KnownOfSound

    Notes
    -----
    Where the click is heard, it gives time zero, delay and all; where it is not (headphones), the clock does, with the
    delay as it was calibrated.
    """
    line = _heard(sound, plan, known)
    heard: Sound
    if line is None:
        zero_s = known.zero_s + (known.delay_s or 0.0)
        line = ClockLine(zero_s, (zero_s - known.zero_half_s, zero_s + known.zero_half_s), None, None, "clock")
        heard, remarks = sound, () if known.delay_s is not None else (UNCALIBRATED,)
    else:
        heard, remarks = WithoutClick(sound, line, plan, lasting(known.voice, plan)), ()
    names, found, unlike = told_apart(heard, known.gate.passed(onsets(heard)), known.timbres)
    if unlike:
        remarks = (*remarks, LEFT_OUT.format(unlike))
    times_s = line.drill_s(found.onset_s)
    near = (times_s > -BEFORE_S) & (times_s < float(plan.seconds(plan.end_tick)) + AFTER_S)
    notes = notes_of(times_s[near], strength=found.strength[near], source=names[near])
    return Recording(notes, line, "sound", (*remarks, *remarks_of(found.others)))


def round_trip_s(recording: Recording, known: KnownOfSound, at_s: float) -> float | None:
    """Return the delay that a take's own bleed shows at a drill time; None where the click was not heard."""
    line = recording.line
    return line.zero_s + at_s * line.rate - known.zero_s - at_s if line.by == "bleed" else None


def _heard(sound: Sound, plan: Schedule, known: KnownOfSound) -> ClockLine | None:
    """Return the line of the click's bleed: near the calibrated delay first, then anywhere it may be."""
    spans = [(-EARLY_S - known.zero_half_s, MOST_S + known.zero_half_s)]
    if known.delay_s is not None:
        spans.insert(0, (known.delay_s - NEAR_KNOWN_S, known.delay_s + NEAR_KNOWN_S))
    for low, high in spans:
        line = find_click(sound, plan, voices=(known.voice,), zero_s=(known.zero_s + low, known.zero_s + high))
        if line:
            return line
    clicks_s = plan.seconds(plan.clicks.tick)
    low, high = known.zero_s + spans[0][0], known.zero_s + spans[0][1]
    return find_faint(sound, clicks_s, voice=known.voice, zero_s=(low, high))

"""What notes come from: the one list of it."""

from __future__ import annotations

from enum import StrEnum


class Input(StrEnum):
    """What the notes of a take come from."""

    KEYS = "keys"
    MIDI = "midi"
    MICROPHONE = "microphone"
    PHONE = "phone"
    RECORDING = "recording"
    SIMULATED = "simulated"
    STAND_IN = "stand-in"
    STAND_IN_MIDI = "stand-in-midi"

    @property
    def is_simulated(self) -> bool:
        """Whether nobody plays."""
        return self in (Input.SIMULATED, Input.STAND_IN, Input.STAND_IN_MIDI)

    @property
    def is_sound(self) -> bool:
        """Whether the notes are heard in the sound of a microphone, or of what stands in for one."""
        return self in (Input.MICROPHONE, Input.PHONE, Input.STAND_IN)


TAKEN = (
    Input.KEYS,
    Input.SIMULATED,
    Input.RECORDING,
    Input.MICROPHONE,
    Input.PHONE,
    Input.MIDI,
)  # what a take says that it came from
HEARING = (
    Input.KEYS,
    Input.MICROPHONE,
    Input.PHONE,
    Input.MIDI,
    Input.STAND_IN,
    Input.STAND_IN_MIDI,
)  # by what a player is heard

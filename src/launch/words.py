"""``python -m launch.words``: the words of the counting voice, spoken by Debian's espeak-ng and shipped as files.

Nobody recorded them. Each is cut so that its onset lies at the same place in its file: where its voice, between
``BAND_HZ``, first is half as loud as at its loudest. That is about the vowel's beginning, where a word is felt to
happen (perceptual centres: Morton, Marcus and Frankish 1976, from memory).
"""

from __future__ import annotations

import io
import subprocess

import numpy as np
import soundfile
from scipy.signal import butter, sosfiltfilt

from giusto.arrays import FloatArray
from giusto.click.said import AFTER_S, LEAD_S, WORDS, file_of

VOICE = ["espeak-ng", "-v", "en-us", "-s", "260", "-p", "45", "-z", "--stdout"]
BAND_HZ = (250, 2500)
SMOOTH_S, FADE_S, PEAK = 0.010, 0.030, 0.6
# What is spoken for a word that is no English one, in the program's own signs for sounds.
SIGNS = {
    "e": "[[i:]]",
    "a": "[[V]]",
    "ka": "[[kA:]]",
    "di": "[[di:]]",
    "mi": "[[mi:]]",
    "ki": "[[ki:]]",
    "da": "[[dA:]]",
}


def main() -> None:
    """Make all of them anew."""
    for word in WORDS:
        raw = subprocess.run([*VOICE, SIGNS.get(word, word)], capture_output=True, check=True).stdout
        samples, rate_hz = soundfile.read(io.BytesIO(raw))
        lead, after = round(LEAD_S * rate_hz), round(AFTER_S * rate_hz)
        padded = np.concatenate([np.zeros(lead), samples, np.zeros(after)])
        at = lead + onset(samples, rate_hz)
        cut = padded[at - lead : at + after]
        cut[-round(FADE_S * rate_hz) :] *= np.linspace(1, 0, round(FADE_S * rate_hz))
        soundfile.write(file_of(word), PEAK * cut / np.abs(cut).max(), rate_hz, format="FLAC", subtype="PCM_16")


def onset(samples: FloatArray, rate_hz: int) -> int:
    """Return the frame at which a word's voice sets in."""
    voiced = sosfiltfilt(butter(2, BAND_HZ, "bandpass", fs=rate_hz, output="sos"), samples)
    smooth = np.hanning(round(2 * SMOOTH_S * rate_hz))
    loudness = np.sqrt(np.maximum(np.convolve(voiced**2, smooth / smooth.sum(), "same"), 0))
    return int(np.argmax(loudness > loudness.max() / 2))


if __name__ == "__main__":
    main()

"""Sound in the containers and coders that phones and programs write, made by the library that reads them.

Run as a program it writes the tiny files of ``tests/reference/coded``, one of each kind.
"""

from __future__ import annotations

import io
from pathlib import Path

import av
import numpy as np

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing import coded as decoding

RATE_HZ = 44_100
FUZZED = 24  # changed files of each kind
KEPT = Path(__file__).parents[2] / "reference" / "coded"
# Ending: container, coder, rate, bits a second, options of the container.
KINDS: dict[str, tuple[str, str, int, int | None, dict[str, str]]] = {
    "wav": ("wav", "pcm_s16le", 16_000, None, {}),
    "flac": ("flac", "flac", 44_100, None, {}),
    "aiff": ("aiff", "pcm_s16be", 16_000, None, {}),
    "caf": ("caf", "alac", 16_000, None, {}),
    "mp3": ("mp3", "libmp3lame", 44_100, 64_000, {}),
    "ogg": ("ogg", "flac", 44_100, None, {}),
    "opus": ("ogg", "libopus", 48_000, 24_000, {}),
    "m4a": ("ipod", "aac", 44_100, 64_000, {}),
    "aac": ("adts", "aac", 44_100, 64_000, {}),
    "mp4": ("mp4", "aac", 44_100, 32_000, {"movflags": "frag_keyframe+empty_moov"}),
    "webm": ("webm", "libopus", 48_000, 32_000, {"live": "1"}),  # as browsers record: no length, no index
    "3gp": ("3gp", "amr_nb", 8_000, 12_200, {}),
    "amr": ("amr", "amr_nb", 8_000, 12_200, {}),
}


def coded(
    samples: FloatArray,
    kind: str,
    *,
    options: dict[str, str] | None = None,
    video: bool = False,
) -> bytes:
    """Return a sound as a file.

    Parameters
    ----------
    samples : array of float, shape (frames,) or (channels, frames)
        At ``RATE_HZ``; one channel or two.
    kind : str
        One of ``KINDS``.
    options : dict
        Of the container, instead of the usual ones.
    video : bool
        With a picture beside the sound.
    """
    container, coder, rate_hz, bit_rate, usual = KINDS[kind]
    both = np.atleast_2d(samples).astype(np.float32)
    layout = "mono" if len(both) == 1 else "stereo"
    written = io.BytesIO()
    with av.open(written, "w", format=container, container_options=usual if options is None else options) as out:
        picture = out.add_stream("mpeg4", rate=5, width=64, height=64, pix_fmt="yuv420p") if video else None
        stream = out.add_stream(coder, rate=rate_hz, layout=layout)
        if bit_rate:
            stream.bit_rate = bit_rate
        if picture:
            for index in range(5 * both.shape[1] // RATE_HZ):
                frame = av.VideoFrame.from_ndarray(np.full((64, 64, 3), 40 * (index % 5), np.uint8), format="rgb24")
                out.mux(picture.encode(frame))
            out.mux(picture.encode(None))
        frame = av.AudioFrame.from_ndarray(both, format="fltp", layout=layout)
        frame.rate, frame.pts = RATE_HZ, 0
        even = av.AudioResampler(format=stream.format, layout=layout, rate=rate_hz)
        for part in (*even.resample(frame), *even.resample(None), None):
            out.mux(stream.encode(part))
    return written.getvalue()


def strokes(times_s: FloatArray, *, lasts_s: float) -> FloatArray:
    """Return short noises at given times, as a drum of paper would sound."""
    drawn = np.random.default_rng(5)
    samples = np.zeros(round(lasts_s * RATE_HZ))
    for at in np.round(np.asarray(times_s) * RATE_HZ).astype(int).tolist():
        noise = drawn.standard_normal(2000) * np.exp(-np.arange(2000) / 350)
        samples[at : at + 2000] += 0.2 * noise[: samples.size - at]
    return samples


KEPT_S = 0.3 + 0.25 * np.arange(6)


def changed(kind: str, folder: Path) -> list[str]:
    """Return how changed files of a kind end: heard, or refused with a code of ours."""
    drawn = np.random.default_rng(len(kind))
    whole = (KEPT / f"strokes.{kind}").read_bytes()
    path, outcomes = folder / "odd", []
    for _ in range(FUZZED):
        data = np.frombuffer(whole, np.uint8).copy()
        where = drawn.integers(0, data.size, drawn.integers(1, 40))
        data[where] = drawn.integers(0, 256, where.size)
        path.write_bytes(data[: drawn.integers(data.size // 2, data.size + 1)].tobytes())
        try:
            decoding._decode(path, folder / "plain.wav")
            outcomes.append("heard")
        except GiustoError as error:
            outcomes.append(error.code)
    return outcomes


if __name__ == "__main__":
    KEPT.mkdir(exist_ok=True)
    for ending in KINDS:
        (KEPT / f"strokes.{ending}").write_bytes(coded(strokes(KEPT_S, lasts_s=2.0), ending))

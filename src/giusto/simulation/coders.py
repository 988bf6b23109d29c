"""Sound in the containers and coders that phones and programs write, made by the library that reads them."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, cast

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing.coded import decode
from giusto.hearing.sound import SoundFile

if TYPE_CHECKING:
    from av.audio.stream import AudioStream

RATE_HZ = 44_100
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
    bit_rate: int | None = None,
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
    bit_rate : int
        A second, instead of the usual one.
    options : dict
        Of the container, instead of the usual ones.
    video : bool
        With a picture beside the sound.
    """
    import av

    container, coder, rate_hz, usual_bits, usual = KINDS[kind]
    both = np.atleast_2d(samples).astype(np.float32)
    layout = "mono" if len(both) == 1 else "stereo"
    written = io.BytesIO()
    with av.open(written, "w", format=container, container_options=usual if options is None else options) as out:
        picture = out.add_stream("mpeg4", rate=5, width=64, height=64, pix_fmt="yuv420p") if video else None
        stream = cast("AudioStream", out.add_stream(coder, rate=rate_hz, layout=layout))
        if bits := bit_rate or usual_bits:
            stream.bit_rate = bits
        if picture:
            for index in range(5 * both.shape[1] // RATE_HZ):
                shown = av.VideoFrame.from_ndarray(np.full((64, 64, 3), 40 * (index % 5), np.uint8), format="rgb24")
                out.mux(picture.encode(shown))
            out.mux(picture.encode(None))
        frame = av.AudioFrame.from_ndarray(both, format="fltp", layout=layout)
        frame.rate, frame.pts = RATE_HZ, 0
        even = av.AudioResampler(format=stream.format, layout=layout, rate=rate_hz)
        for part in (*even.resample(frame), *even.resample(None), None):
            out.mux(stream.encode(part))
    return written.getvalue()


def through(samples: FloatArray, kind: str, *, bit_rate: int) -> FloatArray:
    """Return a sound of one channel as it comes out of a file of some kind, at the rate of the file.

    Read as recordings of players are: in a process of its own, the coder's lead taken off.
    """
    with tempfile.TemporaryDirectory() as folder:
        path, plain = Path(folder) / f"take.{kind}", Path(folder) / "plain.wav"
        path.write_bytes(coded(samples, kind, bit_rate=bit_rate))
        decode(path, plain)
        with SoundFile(plain) as sound:
            return sound.read(0, sound.frames)

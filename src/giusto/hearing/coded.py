"""Recordings as phones and programs write them: any common container and coder, by what is in the file.

Decoded by PyAV (FFmpeg) in a process of its own, with an end to its time and memory, into a plain file beside it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import soundfile
from numpy.typing import NDArray

from giusto.errors import GiustoError
from giusto.hearing.allowed import ALLOWED, allowed_sound
from giusto.limited import limited

if TYPE_CHECKING:
    from av.audio.stream import AudioStream
    from av.container import InputContainer
    from av.packet import Packet

# Containers whose sound is read; a play list or anything else that names other files is none of them.
CONTAINERS = "mov,mp4,matroska,webm,mp3,aac,ogg,amr,amrnb,amrwb,caf,wav,w64,aiff,flac"
# How many samples of silence coders of a kind put before the sound, where the file itself doesn't say: one block of
# AAC's transform (ISO/IEC 14496-3), encoder's and decoder's delay of MP3 (576 + 529, as LAME's documentation has it),
# the look-ahead of AMR (3GPP TS 26.090 and 26.190: 5 ms).
LEADS = {"aac": 1024, "mp3": 1105, "mp3float": 1105, "amrnb": 40, "libopencore_amrnb": 40, "amrwb": 80}
LOSSLESS = ("alac", "flac", "pcm_")
LEAST_GAP_S, MOST_GAP_S = 0.05, 60.0  # ours: what is missing between two blocks is silence; more is a wrong stamp
MOST_DAMAGED = 0.5  # ours: of the packets
LONGEST_S, MOST_MB = 600, 3000  # ours: of the process that decodes; four hours of AAC take two minutes


Block = NDArray[Any]  # whole numbers of 16 or 32 bits, shape (frames, channels)


@dataclass(frozen=True, slots=True)
class Decoded:
    """What was in a coded file.

    Attributes
    ----------
    coder : str
        As FFmpeg names it.
    lead : int
        Samples of the coder's own delay that were taken off, which the file doesn't tell of itself.
    rate_hz : int
    """

    coder: str
    lead: int
    rate_hz: int

    def notes(self) -> tuple[str, ...]:
        """Return what a reading's source says of it."""
        if not self.lead:
            return ()
        lead_ms = 1000 * self.lead / self.rate_hz
        return (
            f"the file does not say how much silence its coder put before the sound: {self.lead:,} samples"
            f" ({lead_ms:.1f} ms) were taken off, which is usual for {self.coder}",
        )


def decode(path: Path, plain: Path) -> Decoded:
    """Write the sound of a coded file as a plain one, of one channel or two.

    Parameters
    ----------
    path : Path
    plain : Path
        Where the plain sound goes: RF64, of 16 bits where the coder loses something, else of 24.

    Raises
    ------
    GiustoError
        ``sound`` where no sound can be read from it or it is beyond what is allowed, ``limit`` where that takes too
        much time or memory.
    """
    return limited(_decode, path, plain, seconds=LONGEST_S, megabytes=MOST_MB)


def _decode(path: Path, plain: Path) -> Decoded:
    import av
    import av.error
    import av.logging

    av.logging.set_level(None)
    options = {"format_whitelist": CONTAINERS, "protocol_whitelist": "file"}
    try:
        with av.open(str(path), container_options=options, metadata_errors="replace") as container:
            return _written(container, plain)
    except av.error.FFmpegError as error:
        problem = f"it is none of those, was cut off before it was finished, or is damaged ({error.strerror})"
        raise GiustoError(f"the recording can't be read, allowed are {ALLOWED}: {problem}", code="sound") from None
    except soundfile.SoundFileError:  # a full disk, say
        raise GiustoError("what was decoded of the recording could not be written", code="limit") from None


def _written(container: InputContainer, plain: Path) -> Decoded:
    from av.audio.stream import AudioStream

    stream = container.streams.best("audio")
    if not isinstance(stream, AudioStream):
        raise GiustoError("the file has no sound in it", code="sound")
    context = stream.codec_context
    if context is None:  # a coder that the decoder does not know
        raise GiustoError("the sound in the file is of a kind that nothing here can read", code="sound")
    lasts_s = float(stream.duration or 0) * float(stream.time_base or 0)
    if problem := allowed_sound(context.sample_rate, context.channels, lasts_s):
        raise GiustoError(problem, code="sound")
    context.thread_count = 1
    coder = context.name
    depth = 24 if coder.startswith(LOSSLESS) else 16
    blocks = _Blocks(stream, depth)
    form = {"format": "RF64", "subtype": f"PCM_{depth}"}
    with soundfile.SoundFile(plain, "w", blocks.rate_hz, blocks.channels, **form) as written:
        for block in blocks.all(container):
            written.write(block)
        if not written.frames:
            raise GiustoError("the recording is empty", code="sound")
    return Decoded(coder, blocks.lead, blocks.rate_hz)


class _Blocks:
    """The samples of a stream, one block after the other, gaps filled, the coder's lead left out."""

    def __init__(self, stream: AudioStream, depth: int) -> None:
        import av

        self.stream = stream
        self.rate_hz = stream.codec_context.sample_rate
        self.channels = 1 if stream.codec_context.channels == 1 else 2
        self.lead = 0
        layout = "mono" if self.channels == 1 else "stereo"
        form = "s16" if depth == 16 else "s32"
        self._even = partial(av.AudioResampler, format=form, layout=layout, rate=self.rate_hz)
        self._frames = 0
        self._ends_s: float | None = None

    def all(self, container: InputContainer) -> Iterator[Block]:
        """Yield the samples."""
        import av.error

        even, form = self._even(), None
        packets = damaged = 0
        to_skip = 0
        for packet in container.demux(self.stream):
            if not packets:
                to_skip = self.lead = self._lead(packet)
            packets += 1
            try:
                frames = packet.decode()
            except av.error.InvalidDataError:
                damaged += 1
                continue
            for frame in frames:
                this = (frame.format.name, frame.layout.name, frame.sample_rate)
                if form not in (None, this):  # a coder may change its mind in mid-file
                    even = self._even()
                form = this
                yield from self._gap(frame.time, frame.samples / frame.sample_rate)
                for part in even.resample(frame):
                    block = part.to_ndarray().reshape(-1, self.channels)
                    skipped = min(to_skip, len(block))
                    to_skip -= skipped
                    yield self._counted(block[skipped:])
        if packets and damaged > MOST_DAMAGED * packets:
            raise GiustoError(f"the recording is damaged: {damaged} of its {packets} parts can't be read", code="sound")
        if form is not None:
            for part in even.resample(None):
                yield self._counted(part.to_ndarray().reshape(-1, self.channels))

    def _lead(self, first: Packet[AudioStream]) -> int:
        """Return the samples to take off: none where the file says itself what comes before the sound."""
        says_so = first.has_sidedata("skip_samples") or (first.pts is not None and first.pts < 0)
        rate = self.stream.codec_context.sample_rate
        lead = LEADS.get(self.stream.codec_context.name, 0)
        return 0 if says_so or not rate else lead

    def _gap(self, at_s: float | None, lasts_s: float) -> Iterator[Block]:
        """Yield silence for what is missing before a block; a recorder that could not keep up leaves such holes."""
        if at_s is None:
            self._ends_s = None
            return
        missing_s = at_s - self._ends_s if self._ends_s is not None else 0.0
        self._ends_s = at_s + lasts_s
        if LEAST_GAP_S < missing_s <= MOST_GAP_S:
            yield self._counted(np.zeros((round(missing_s * self.rate_hz), self.channels), np.int16))

    def _counted(self, block: Block) -> Block:
        self._frames += len(block)
        if problem := allowed_sound(self.rate_hz, self.channels, self._frames / self.rate_hz):
            raise GiustoError(problem, code="sound")
        return block

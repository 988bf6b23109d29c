"""Files as phones and programs write them: the same onsets whatever the coder, or one sentence that says why not."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from unittest import TestCase

import numpy as np
import soundfile

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing.coded import LEADS, Decoded, _Blocks, decode
from giusto.hearing.content import content
from giusto.hearing.files import opened
from giusto.hearing.onsets import onsets
from giusto.hearing.recording import recorded
from giusto.limited import limited
from giusto.reading import analyse
from giusto.simulation.coders import KINDS, RATE_HZ, coded
from giusto.simulation.instrument import Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned
from tests.giusto.hearing.encoding import FUZZED, KEPT, KEPT_S, all_changed, strokes

NEAR_MS = 3.0  # the contract: a coded file and its WAV agree so well
UNSAID = {"mp3": {"write_xing": "0"}, "m4a": {"use_editlist": "0"}, "aac": {}, "amr": {}}


class FilesTestCase(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def onsets_of(self, data: bytes, name: str = "a") -> FloatArray:
        """Return the onsets of a file."""
        path = self.folder / name
        path.write_bytes(data)
        with opened(path) as file:
            self.notes = file.notes
            return onsets(file.sound).onset_s

    def refused(self, data: bytes) -> str:
        """Return the sentence that a file is refused with."""
        with self.assertRaises(GiustoError) as caught:
            self.onsets_of(data)
        return str(caught.exception)


class KindTests(FilesTestCase):
    def test_kept_files_of_each_kind_have_the_onsets_of_the_wav(self) -> None:
        """By what is in them: their names say nothing."""
        self.assertEqual({one.suffix[1:] for one in KEPT.iterdir()}, set(KINDS))
        plain = self.onsets_of((KEPT / "strokes.wav").read_bytes())
        self.assertLess(np.abs(plain - KEPT_S).max(), 0.002)
        for kind in KINDS:
            with self.subTest(kind):
                found = self.onsets_of((KEPT / f"strokes.{kind}").read_bytes())
                self.assertEqual(found.size, KEPT_S.size)
                self.assertLess(1000 * np.abs(found - plain).max(), NEAR_MS)

    def test_a_lead_that_the_file_does_not_tell_is_taken_off_and_said(self) -> None:
        """The coders' own figures: ISO/IEC 14496-3 (AAC), LAME's documentation (MP3), 3GPP TS 26.090 (AMR)."""
        for kind, options in UNSAID.items():
            with self.subTest(kind):
                found = self.onsets_of(coded(strokes(KEPT_S, lasts_s=2.0), kind, options=options))
                self.assertLess(1000 * np.abs(found - KEPT_S).max(), NEAR_MS)
                self.assertRegex(self.notes[0], r"[\d,]+ samples \([\d.]+ ms\) were taken off, which is usual for")

    def test_a_lead_that_the_file_tells_is_no_matter_of_ours(self) -> None:
        for kind in ("m4a", "mp3", "opus", "webm"):
            with self.subTest(kind):
                self.onsets_of(coded(strokes(KEPT_S, lasts_s=2.0), kind, options={}))
                self.assertEqual(self.notes, ())

    def test_a_video_gives_its_sound(self) -> None:
        found = self.onsets_of(coded(strokes(KEPT_S, lasts_s=2.0), "mp4", options={}, video=True))
        self.assertLess(1000 * np.abs(found - KEPT_S).max(), NEAR_MS)

    def test_a_hole_that_a_recorder_left_is_silence_and_moves_nothing(self) -> None:
        """Blocks of a live webm taken out by their stamps, as a busy browser leaves them."""
        import av

        whole = coded(strokes(KEPT_S, lasts_s=2.0), "webm")
        written = io.BytesIO()
        with av.open(io.BytesIO(whole)) as read, av.open(written, "w", format="webm") as out:
            stream = read.streams.audio[0]
            copy = out.add_stream_from_template(stream)
            for packet in read.demux(stream):
                if packet.dts is not None and not 0.62 < packet.pts * packet.time_base < 0.74:
                    packet.stream = copy
                    out.mux(packet)
        found = self.onsets_of(written.getvalue())
        self.assertLess(1000 * np.abs(found - KEPT_S).max(), NEAR_MS)

    def test_a_silent_channel_and_channels_that_take_each_other_away(self) -> None:
        one = strokes(KEPT_S, lasts_s=2.0)
        for other, said in ((np.zeros_like(one), 0), (-0.97 * one, 1)):
            found = self.onsets_of(coded(np.stack([one, other]), "m4a"))
            self.assertEqual((found.size, len(self.notes)), (KEPT_S.size, said))
            self.assertLess(1000 * np.abs(found - KEPT_S).max(), NEAR_MS)


class ReadingTests(FilesTestCase):
    def test_a_coded_take_and_its_wav_agree(self) -> None:
        """Within 3 ms of each other's drifts, 1 ppm of each other's clock (the contract), time zero to a tenth."""
        plan = planned(cycles=8)
        player = SimulatedPlayer(bias_percent=-1.2, clock_percent=0.9, hand_ms=6.0, place_ms=-8.0)
        onsets_s = simulate(plan, player, seed=3).onsets_s
        samples = recording(plan, onsets_s, Room("skin", -25.0, -60.0, 40.0, 120.0), seed=3)
        path = self.folder / "take"

        def read_of(data: bytes) -> tuple[float, float, FloatArray]:
            path.write_bytes(data)
            found = recorded(path, plan)
            assert found.line.ppm is not None
            drifts = [one.drift_ms for one in analyse(plan, found.notes).reading.silences]
            return found.line.zero_s, found.line.ppm, np.array(drifts, float)

        plain = io.BytesIO()
        soundfile.write(plain, samples, RATE_HZ, format="WAV", subtype="PCM_16")
        zero_s, ppm, drifts = read_of(plain.getvalue())
        for kind in ("m4a", "mp3", "webm"):
            with self.subTest(kind):
                other_zero_s, other_ppm, other_drifts = read_of(coded(samples, kind))
                self.assertLess(np.abs(other_drifts - drifts).max(), NEAR_MS)
                self.assertLess(abs(other_ppm - ppm), 1.0)
                self.assertLess(abs(other_zero_s - zero_s), 0.0001)


class RefusalTests(FilesTestCase):
    def test_what_is_no_sound_is_refused_in_one_sentence(self) -> None:
        whole = coded(strokes(KEPT_S, lasts_s=2.0), "m4a", options={})
        for data, said in (
            (b"%PDF-1.7\x00" + bytes(2000), "allowed are .wav, .flac"),
            (whole[: len(whole) // 2], "cut off before it was finished"),  # the index is at its end
        ):
            sentence = self.refused(data)
            self.assertIn(said, sentence)
            self.assertNotIn(str(self.folder), sentence)

    def test_a_list_of_other_files_opens_none_of_them(self) -> None:
        (self.folder / "other.wav").write_bytes((KEPT / "strokes.wav").read_bytes())
        for lines in (
            "#EXTM3U\n#EXTINF:2,\n{0}/other.wav\n#EXT-X-ENDLIST\n",
            "ffconcat version 1.0\nfile {0}/other.wav\n",
        ):
            path = self.folder / "list"
            path.write_text(lines.format(self.folder))
            with self.assertRaises(GiustoError):
                decode(path, self.folder / "plain.wav")

    def test_what_is_cut_off_in_mid_sound_is_read_as_far_as_it_goes(self) -> None:
        whole = coded(strokes(KEPT_S, lasts_s=2.0), "webm")
        found = self.onsets_of(whole[: len(whole) // 2])
        self.assertGreaterEqual(found.size, 2)
        self.assertLess(1000 * np.abs(found - KEPT_S[: found.size]).max(), NEAR_MS)

    def test_changed_bytes_end_in_sound_or_one_sentence(self) -> None:
        found = limited(all_changed, self.folder, seconds=240, megabytes=3000)
        self.assertEqual([*found], [*KINDS])
        for kind, outcomes in found.items():
            with self.subTest(kind):
                self.assertEqual(len(outcomes), FUZZED)
                self.assertLessEqual(set(outcomes), {"sound", "limit", "heard"})


class ContentTests(TestCase):
    def test_by_how_a_file_begins(self) -> None:
        for beginning, kind in (
            (b"MThd\x00\x00", "midi"),
            (b"time_s\r\n0.5\r\n", "text"),
            ("time_s,label\n0.5,Ärmel\n".encode(), "text"),
            (b"", "text"),
            *((one.read_bytes()[:4096], "sound") for one in KEPT.iterdir()),
        ):
            self.assertEqual(content(beginning), kind)

    def test_seven_of_ten_plain_letters_are_text(self) -> None:
        for plain, kind in ((7, "text"), (6, "sound")):
            self.assertEqual(content(b"1" * plain + b"\xe9" * (10 - plain)), kind)
        self.assertEqual(content(b"0.5\t1\r\n"), "text")
        self.assertEqual(content(b"0.5\x00" + b"1" * 90), "sound")  # one byte that no text has
        self.assertEqual(content(b""), "text")

    def test_each_lead_is_of_a_coder_that_the_decoder_has(self) -> None:
        import av

        for coder in LEADS:
            av.codec.Codec(coder, "r")


class BlockTests(TestCase):
    """Stamps and leads that are written down: nothing is decoded."""

    def blocks(self, coder: str = "aac", *, channels: int = 1, rate_hz: int = 8_000) -> _Blocks:
        """Return the blocks of a stream."""
        context = SimpleNamespace(sample_rate=rate_hz, channels=channels, name=coder)
        stream: Any = SimpleNamespace(codec_context=context)
        return _Blocks(stream, 16)

    def filled(self, *stamps_s: tuple[float | None, float]) -> list[int]:
        """Return how many samples of silence are put before each block."""
        blocks = self.blocks()
        return [sum(len(one) for one in blocks._gap(*stamp)) for stamp in stamps_s]

    def test_what_is_missing_between_two_blocks_is_silence(self) -> None:
        self.assertEqual(self.filled((0.0, 0.5), (0.5, 0.5), (1.25, 0.5), (1.75, 0.5)), [0, 0, 2_000, 0])
        self.assertEqual(self.filled((3.0, 0.5), (3.5, 0.5)), [0, 0])  # what comes before the first is nothing of ours
        self.assertEqual(self.filled((0.0, 0.5), (0.53125, 0.5)), [0, 0])  # less than 50 ms are a rounded stamp
        self.assertEqual(self.filled((0.0, 0.5), (60.5, 0.5)), [0, 480_000])
        self.assertEqual(
            self.filled((0.0, 0.5), (61.0, 0.5), (61.5, 0.5)), [0, 0, 0]
        )  # more than a minute is a wrong one
        self.assertEqual(self.filled((0.0, 0.5), (None, 0.5), (9.0, 0.5)), [0, 0, 0])

    def test_silence_has_the_files_channels(self) -> None:
        blocks = self.blocks(channels=6)
        list(blocks._gap(0.0, 0.5))
        self.assertEqual([one.shape for one in blocks._gap(1.0, 0.5)], [(4_000, 2)])

    def test_a_lead_is_taken_off_where_the_file_does_not_tell(self) -> None:
        for coder, pts, side, lead in (
            ("aac", 0, False, 1_024),
            ("aac", None, False, 1_024),
            ("aac", 1, False, 1_024),
            ("aac", -1_024, False, 0),
            ("aac", 0, True, 0),
            ("mp3float", 0, False, 1_105),
            ("flac", 0, False, 0),
        ):
            first: Any = SimpleNamespace(pts=pts, has_sidedata=lambda name, side=side: side and name == "skip_samples")
            self.assertEqual(self.blocks(coder)._lead(first), lead, (coder, pts, side))
        none: Any = SimpleNamespace(pts=0, has_sidedata=lambda _: False)
        self.assertEqual(self.blocks("aac", rate_hz=0)._lead(none), 0)

    def test_the_longest_that_is_allowed_ends_it(self) -> None:
        blocks = self.blocks()
        block = np.zeros((8_000 * 3_600, 1), np.int16)
        for _ in range(4):
            blocks._counted(block)
        with self.assertRaises(GiustoError):
            blocks._counted(block[:8_000])

    def test_what_is_said_of_a_lead(self) -> None:
        self.assertEqual(Decoded("flac", 0, 44_100).notes(), ())
        said = Decoded("aac", 1_024, 44_100).notes()[0]
        self.assertIn("1,024 samples (23.2 ms) were taken off, which is usual for aac", said)

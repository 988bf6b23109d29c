"""Sound that browsers pack: looked at by its header as it comes, unpacked where it is heard; damaged, it is silence."""

from __future__ import annotations

import base64
import io
import struct
from typing import Any

import numpy as np
import soundfile
from django.core.management import call_command
from django.test import SimpleTestCase, override_settings

from giusto.arrays import FloatArray
from giusto.simulation.instrument import Room
from studio.takes.flac import MOST_FRAMES, check_flac, unpacked
from studio.takes.messages import MessageError, Notes, checked
from studio.takes.models import SoundPiece, Take
from studio.takes.pieces import spooled
from tests.studio.takes.test_sound import RATE_HZ, SoundTestCase

ROOM = Room("wood", -25.0, -60.0, 20.0)


def flac_of(samples: FloatArray, *, rate_hz: int = RATE_HZ, subtype: str = "PCM_16") -> bytes:
    """Return samples as a FLAC file."""
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, rate_hz, format="FLAC", subtype=subtype)
    return buffer.getvalue()


def packed(pieces: list[dict[str, Any]], together: int = 5) -> list[dict[str, Any]]:
    """Return pieces as a browser packs those of a batch."""
    found = []
    for at in range(0, len(pieces), together):
        some = pieces[at : at + together]
        raw = b"".join(base64.b64decode(one["samples"]) for one in some)
        flac = flac_of(np.frombuffer(raw, dtype="<i2"))
        found.append({"frame": some[0]["frame"], "flac": base64.b64encode(flac).decode()})
    return found


class CheckedTests(SimpleTestCase):
    def refused(self, **sound: Any) -> str:
        with self.assertRaises(MessageError) as caught:
            checked(Notes, {"notes": [], "pairs": [], "sound": [{"frame": 0, **sound}]})
        return str(caught.exception)

    def test_what_is_no_short_flac_file_of_one_channel_is_refused_by_its_header(self) -> None:
        one, two = np.zeros(100), np.zeros((100, 2))
        check_flac(flac_of(one))
        self.assertEqual(unpacked(flac_of(one)).shape, (100,))  # type: ignore[union-attr]
        for content, said in (
            (b"fLaC", "begins otherwise"),
            (b"RIFF" + bytes(60), "begins otherwise"),
            (flac_of(two), "2 channels of 16 bits"),
            (flac_of(one, subtype="PCM_24"), "1 channels of 24 bits"),
            (flac_of(np.zeros(MOST_FRAMES + 1)), "allowed are 1 to 75,000"),
        ):
            self.assertIn(said, self.refused(flac=base64.b64encode(content).decode()))

    def test_a_header_that_lies_unpacks_to_no_more_than_allowed(self) -> None:
        content = bytearray(flac_of(np.random.default_rng(1).normal(0, 0.1, 200_000)))
        told = int.from_bytes(content[18:26], "big")
        content[18:26] = struct.pack(">Q", told >> 36 << 36 | 1000)
        check_flac(bytes(content))
        samples = unpacked(bytes(content))
        self.assertTrue(samples is None or samples.size <= MOST_FRAMES)

    def test_one_of_samples_and_flac(self) -> None:
        flac = base64.b64encode(flac_of(np.zeros(10))).decode()
        self.assertIn("allowed is one of them", self.refused(flac=flac, samples="AAAA"))
        self.assertIn("allowed is one of them", self.refused())


class PackedTests(SoundTestCase):
    def test_packed_it_is_heard_as_it_is_unpacked(self) -> None:
        pieces = self.sound(ROOM)
        take = self.send_sound(pieces, heard=False)
        with spooled(take, from_s=1.05, to_s=4.0) as plain:
            part, _ = soundfile.read(plain.path, dtype="int16")
        with spooled(take) as plain:
            whole, _ = soundfile.read(plain.path, dtype="int16")
            first_frame = plain.first_frame
        call_command("work", once=True)
        plainly = Take.objects.get().reading.onsets_s
        Take.objects.all().delete()

        take = self.send_sound(packed(pieces), twice=True, heard=False)
        self.assertTrue(all(SoundPiece.objects.values_list("is_flac", flat=True)))
        with spooled(take) as found:
            np.testing.assert_array_equal(soundfile.read(found.path, dtype="int16")[0], whole)
            self.assertEqual(found.first_frame, first_frame)
        with spooled(take, from_s=1.05, to_s=4.0) as found:  # from within a piece: the rest of it
            heard, _ = soundfile.read(found.path, dtype="int16")
            start = found.first_frame - round((1.05 + take.zero_audio_s) * RATE_HZ)
            self.assertLessEqual(abs(start), 1)
        at = min(part.size, heard.size) // 2
        self.assertIn(part[at : at + 500].tobytes(), heard.tobytes())
        call_command("work", once=True)
        self.assertEqual(Take.objects.get().reading.onsets_s, plainly)
        self.assertEqual(SoundPiece.objects.count(), 0)

    def test_a_damaged_piece_is_silence_and_said(self) -> None:
        pieces = packed(self.sound(ROOM))
        broken = bytearray(base64.b64decode(pieces[20]["flac"]))
        broken[60:] = bytes(len(broken) - 60)
        pieces[20]["flac"] = base64.b64encode(bytes(broken)).decode()
        take = self.send_sound(pieces)
        self.assertIn("came damaged are silence: 1", " ".join(take.hearing.remarks))
        found = np.array(take.reading.onsets_s)
        later = self.onsets_s[self.onsets_s > 12.0]
        np.testing.assert_allclose([np.min(np.abs(found - at)) for at in later], 0, rtol=0, atol=0.003)

    @override_settings(SOUND_IN_STORAGE=True)
    def test_in_the_storage_it_stays_packed(self) -> None:
        take = self.send_sound(packed(self.sound(Room("wood", None, -60.0))), heard=False)
        self.assertTrue(all(piece.file.name.endswith(".flac") for piece in take.pieces.all()))
        call_command("work", once=True)
        self.assertEqual(len(Take.objects.get().reading.onsets_s), self.onsets_s.size)

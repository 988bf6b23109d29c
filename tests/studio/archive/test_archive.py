"""All of it out and in again, to the last byte of raw material; hostile, broken and half archives refused whole."""

from __future__ import annotations

import io
import json
import stat
import zipfile
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.core.files.base import ContentFile
from django.core.management import CommandError, call_command
from django.test import TestCase
from django.utils import timezone

from studio.accounts.models import Player, demo_player, local_player
from studio.archive.layout import ArchiveError
from studio.archive.reading import read_archive
from studio.archive.writing import write_archive
from studio.hearing.models import Delay, Ear
from studio.ladders.models import Ladder
from studio.ladders.standing import standings
from studio.pieces.models import Piece
from studio.plans.models import Routine
from studio.takes.models import KeptSound, Reading, Silence, Take
from tests.studio.playing import play

COUNTED = (Take, Reading, Silence, Ladder, Piece, Routine)


def written(player: Player) -> bytes:
    """Return a player's archive."""
    buffer = io.BytesIO()
    write_archive(player, buffer)
    return buffer.getvalue()


def files_of(archive: bytes) -> dict[str, bytes]:
    """Return the files of an archive, but for the manifest's time."""
    with zipfile.ZipFile(io.BytesIO(archive)) as bundle:
        return {name: bundle.read(name) for name in bundle.namelist() if name != "manifest.json"}


def manifest_of(files: dict[str, bytes]) -> dict[str, Any]:
    """Return the manifest of some files."""
    digests = {name: sha256(data).hexdigest() for name, data in files.items()}
    return {"giusto": "archive/1", "made": "", "by": "", "counts": {}, "files": digests}


def packed(files: dict[str, bytes], manifest: dict[str, Any] | None = None, deep: str = "", **attributes: int) -> bytes:
    """Return an archive of files, with a manifest that fits them unless another is given."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as bundle:
        for name, data in files.items():
            info = zipfile.ZipInfo(name)
            info.external_attr = attributes.get(name, 0)
            bundle.writestr(info, data)
        told = json.dumps(manifest_of(files) if manifest is None else manifest)
        bundle.writestr("manifest.json", deep or told)
    return buffer.getvalue()


class RoundTripTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        call_command("demo", stdout=io.StringIO())

    def test_all_of_the_demo_to_the_last_byte(self) -> None:
        """Out, all rows gone, in for another player, out again: every file is the same."""
        demo = demo_player()
        assert demo
        archive = written(demo)
        before = {model: model.objects.count() for model in COUNTED}
        now = Take.objects.latest("started_at").started_at
        stood = {one.ladder.name: one.step.rung for one in standings(demo.ladders.all(), now)}
        demo.delete()
        self.assertEqual(Take.objects.count(), 0)
        counts = read_archive(local_player(), io.BytesIO(archive))
        self.assertEqual({model: model.objects.count() for model in COUNTED}, before)
        self.assertEqual(counts["takes"], before[Take])
        player = local_player()
        self.assertEqual(set(Take.objects.values_list("input", flat=True)), {"simulated"})
        Take.objects.update(input="keys")  # nobody but the demo climbs by what is simulated
        self.assertEqual({one.ladder.name: one.step.rung for one in standings(player.ladders.all(), now)}, stood)
        first, again = files_of(archive), files_of(written(player))
        self.assertEqual(set(first), set(again))
        derived = (
            "exercises.json",
            "ladders.json",
            "pieces.json",
            "entries.json",
        )  # they name exercises by number, which is new
        raw = [name for name in first if name not in derived and not name.endswith("take.json")]
        self.assertGreater(len(raw), 4 * before[Take])
        for name in raw:
            self.assertEqual(first[name], again[name], name)
        for name in (name for name in first if name.endswith("take.json")):
            one, other = (json.loads(files[name]) for files in (first, again))
            self.assertEqual({**one, "exercise_id": 0, "input": "keys"}, {**other, "exercise_id": 0}, name)

    def test_what_was_heard_goes_along_sound_and_all(self) -> None:
        """By what a player is heard, its delay, the source of a take's times and the sound that was kept."""
        take = play(self.client)
        player = take.player
        Take.objects.filter(pk=take.pk).update(hearing={"by": "microphone", "delay_ms": 12.5}, sections=[4, 4])
        content = bytes(range(256)) * 9
        kept = KeptSound(take=take, player=take.player, bytes=len(content), zero_s=1.25, rate=1.00009)
        kept.file.save("take.flac", ContentFile(content))
        Ear.objects.create(player=player, by="midi", pads={"again": "note:36"}, threshold_db=-41.5)
        Delay.objects.create(
            player=player,
            by="midi",
            device="pads",
            delay_ms=5,
            low_ms=4,
            high_ms=6,
            count=20,
            measured_at=timezone.now(),
        )
        archive = written(player)
        kept.file.storage.delete(str(kept.file.name))
        for model in (Take, Ear, Delay):
            model.objects.filter(player=player).delete()
        read_archive(player, io.BytesIO(archive))
        found = KeptSound.objects.get()
        self.assertEqual((found.file.read(), found.zero_s, found.rate), (content, 1.25, 1.00009))
        self.assertEqual((found.take.hearing.delay_ms, found.take.sections), (12.5, [4, 4]))
        self.assertEqual((Ear.objects.get().pads, Delay.objects.get().device), ({"again": "note:36"}, "pads"))
        first, again = files_of(archive), files_of(written(player))
        for name in ("player.json", f"takes/{take.pk}/sound.flac", f"takes/{take.pk}/batches.jsonl"):
            self.assertEqual(first[name], again[name], name)

    def test_an_archive_that_fails_leaves_no_sound_behind(self) -> None:
        take = play(self.client)
        player, storage = take.player, KeptSound._meta.get_field("file").storage
        kept = KeptSound(take=take, player=take.player, bytes=3, zero_s=0.0)
        kept.file.save("take.flac", ContentFile(b"abc"))
        files = files_of(written(player))
        storage.delete(str(kept.file.name))
        pk = take.pk
        take.delete()
        files[f"takes/{pk}/reading.json"] = b"{"  # what comes after the sound is broken
        with self.assertRaises(ArchiveError):
            read_archive(player, io.BytesIO(packed(files)))
        self.assertEqual(KeptSound.objects.count(), 0)
        self.assertEqual(list(Path(storage.location).rglob(f"{pk}*")), [])

    def test_the_commands_report_and_refuse_a_giusto_that_is_not_empty(self) -> None:
        take = play(self.client)
        with TemporaryDirectory() as folder:
            path = Path(folder) / "all.zip"
            out = io.StringIO()
            call_command("export", str(path), stdout=out)
            self.assertIn("1 takes", out.getvalue())
            with self.assertRaisesRegex(CommandError, "there are takes here already, allowed is an empty Giusto"):
                call_command("import", str(path))
            address = take.get_absolute_url()
            take.delete()
            call_command("import", str(path), stdout=out)
            self.assertIn("brought in: 0 drills, 1 exercises, 0 ladders, 0 pieces, 1 takes", out.getvalue())
            self.assertContains(self.client.get(address), "habit")
            with self.assertRaisesRegex(CommandError, "can't be read: No such file"):
                call_command("import", str(path.with_name("none.zip")))

    def test_the_page_sends_it(self) -> None:
        answer = self.client.get("/archive/giusto.zip")
        content = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
        self.assertIn("player.json", files_of(content))


class RefusalTests(TestCase):
    def setUp(self) -> None:
        play(self.client)
        self.files = files_of(written(local_player()))
        Player.objects.all().delete()
        self.take = next(name for name in self.files if name.endswith("take.json"))

    def refused(self, archive: bytes, said: str) -> None:
        with self.assertRaisesRegex(ArchiveError, said):
            read_archive(local_player(), io.BytesIO(archive))
        for model in COUNTED:
            self.assertEqual(model.objects.count(), 0, model)
        self.assertEqual(local_player().exercises.count(), 0)

    def changed(self, name: str, change: Callable[[Any], None]) -> bytes:
        found = json.loads(self.files[name])
        change(found)
        return packed(self.files | {name: json.dumps(found).encode()})

    def test_whole_it_comes_in(self) -> None:
        self.assertEqual(read_archive(local_player(), io.BytesIO(packed(self.files)))["takes"], 1)

    def test_half_an_archive(self) -> None:
        archive = packed(self.files)
        self.refused(archive[: len(archive) // 2], "the archive can't be read: File is not a zip file")
        less = {name: data for name, data in self.files.items() if name != self.take}
        manifest = {
            "giusto": "archive/1",
            "files": {name: sha256(data).hexdigest() for name, data in self.files.items()},
        }
        self.refused(packed(less, manifest), "the archive is not whole: takes/.*/take.json is missing, of 1 such files")
        self.refused(packed({}, {}), 'manifest.json is "None", allowed is "archive/1"')
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as bundle:
            bundle.writestr("player.json", "{}")
        self.refused(buffer.getvalue(), "has no manifest.json")

    def test_changed_after_it_was_written(self) -> None:
        manifest = {
            "giusto": "archive/1",
            "files": {name: sha256(data).hexdigest() for name, data in self.files.items()},
        }
        self.refused(packed(self.files | {self.take: b"{}"}, manifest), "is not as it was written")
        self.refused(packed(self.files | {"extra.txt": b""}, manifest), "extra.txt is not named in manifest.json")

    def test_hostile_paths_links_and_twins(self) -> None:
        for name, said in (("../../etc/x", "leads out"), ("/etc/x", "leads out"), ("a\\..\\x", "leads out")):
            self.refused(packed(self.files | {name: b""}), said)
        link = {"link": (stat.S_IFLNK | 0o777) << 16}
        self.refused(packed(self.files | {"link": b"/etc/passwd"}, **link), "'link' is a link")
        buffer = io.BytesIO(packed(self.files))
        with zipfile.ZipFile(buffer, "a") as bundle, self.assertWarns(UserWarning):
            bundle.writestr(self.take, b"{}")
        self.refused(buffer.getvalue(), "stands twice")

    def test_what_fails_halfway_leaves_nothing(self) -> None:
        def no_time(take: dict[str, Any]) -> None:
            take["started_at"] = "yesterday"

        def no_input(take: dict[str, Any]) -> None:
            take["input"] = "telepathy"

        def no_exercise(take: dict[str, Any]) -> None:
            take["exercise_id"] = 4711

        def no_tempo(take: dict[str, Any]) -> None:
            del take["tempo_bpm"]

        for change, said in (
            (no_time, '"yesterday" is no time with an offset'),
            (no_input, 'input: "telepathy" is none of its choices'),
            (no_exercise, "4711 is missing"),
            (no_tempo, "'tempo_bpm' is missing"),
        ):
            self.refused(self.changed(self.take, change), f"take.json can't be brought in: .*{said}")
        for name, value, said in (
            ("started_at", "0001-01-01T00:00:00+14:00", "lies outside the years 1971 to 2199"),
            ("started_at", "9999-12-31T23:59:59-12:00", "lies outside the years"),
            ("tempo_bpm", float("nan"), "NaN is no number"),
            ("tempo_bpm", "nan", "tempo_bpm: nan is no number"),
            ("tempo_bpm", 1e400, "Infinity is no number"),
            ("hearing", [1], "hearing: '.1.' is no object"),
            ("device", "x", "device: 'x' is no object"),
            ("note", "a\x00b", "NUL"),
        ):
            with self.subTest(name, value=value):
                changed = self.changed(self.take, lambda take: take.update({name: value}))  # noqa: B023
                self.refused(changed, f"take.json can't be brought in: .*{said}")
        lines = self.take.replace("take.json", "batches.jsonl")
        for wrong, said in (
            (b'{"number":0,"notes":[{"at_ms":"x","source":"space"}],"pairs":[]}', "at_ms"),
            (b'{"number":0,"notes":[{"at_ms":NaN,"source":"space"}],"pairs":[]}', "NaN is no number"),
            (b'{"number":0,"notes":[],"pairs":[[1,2,3]]}', "pairs"),
            (b"[" * 200_000, "recursion"),
            (b"[1]", "object|mapping|dict"),
        ):
            with self.subTest(wrong[:40]):
                self.refused(packed(self.files | {lines: wrong}), f"can't be brought in: .*({said})")
        readings = self.take.replace("take.json", "reading.json")
        self.refused(packed(self.files | {readings: b"[1]"}), "is no object")
        self.refused(packed(self.files, deep="[" * 200_000), "manifest.json can't be read")
        drill = self.take.replace("take.json", "drill.json")
        self.refused(packed(self.files | {drill: b"{}"}), "can't be brought in: .*giusto")
        self.refused(packed(self.files | {"player.json": b"\xff"}), "player.json can't be brought in")

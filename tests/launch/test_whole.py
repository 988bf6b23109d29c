"""A whole copy and back: sounds and all, checked before anything changes."""

from __future__ import annotations

import contextlib
import io
import json
import os
import tarfile
import tempfile
from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import giusto
from launch import copies, rotation, whole
from launch.cluster import DATABASE, Cluster, server_user
from launch.test import QUICK


class WholeTests(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory(prefix="giusto-cluster-")
        cls.addClassCleanup(folder.cleanup)
        if user := server_user(None):
            os.chown(folder.name, user.pw_uid, user.pw_gid)
        cls.cluster = Cluster(Path(folder.name) / "cluster", settings=QUICK, safe=False)
        cls.cluster.start()
        cls.addClassCleanup(cls.cluster.stop)

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.own = Path(folder.name)
        self.ask("drop table if exists takes_keptsound")
        self.sounds = self.own / "recordings"
        (self.sounds / "sounds/2026").mkdir(parents=True)
        self.sound = self.sounds / "sounds/2026/a.flac"
        self.sound.write_bytes(b"fLaC as it sounded")
        self.path = self.own / "all.tar"
        for name, put in (("OWN", self.own), ("RECORDINGS", self.sounds)):
            self.enterContext(patch.object(whole, name, put))
        for name in ("make_room", "make_tables"):
            self.enterContext(patch.object(whole, name))
        self.enterContext(patch.object(whole, "secret_key", lambda: "sesame"))
        self.ask("create table takes_keptsound (file text)")
        self.ask("insert into takes_keptsound values ('sounds/2026/a.flac')")

    def ask(self, statement: str) -> list[tuple]:
        with self.cluster.connection(DATABASE) as connection:
            found = connection.execute(statement)
            return found.fetchall() if found.description else []

    def names(self) -> list[str]:
        return [name for (name,) in self.ask("select file from takes_keptsound")]

    def put_back(self) -> str:
        """Put the copy back; return what was said."""
        said = io.StringIO()
        with contextlib.redirect_stderr(said):
            whole.put_back(self.cluster, self.path)
        return said.getvalue()

    def test_all_of_it_comes_back(self) -> None:
        self.assertEqual(whole.write(self.cluster, self.path), 1)
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)
        self.sound.unlink()
        self.ask("delete from takes_keptsound")
        self.assertEqual(self.put_back(), "")
        self.assertEqual((self.names(), self.sound.read_bytes()), (["sounds/2026/a.flac"], b"fLaC as it sounded"))
        key = self.own / "secret-key"
        self.assertEqual((key.read_text(), key.stat().st_mode & 0o777), ("sesame", 0o600))
        self.assertEqual(sorted(p.name for p in self.own.iterdir() if "backup-" in p.name or "part" in p.name), [])

    def test_a_copy_comes_back_into_a_scratch_database_with_the_rows_that_it_had(self) -> None:
        self.ask("create table if not exists drums (name text)")
        self.ask("insert into drums values ('frame'), ('snare')")
        whole.write(self.cluster, self.path)
        self.ask("delete from drums")
        with patch.object(rotation, "make_room"):
            rows = rotation.tried_back(self.path)
        self.assertEqual((rows["drums"], rows["takes_keptsound"]), (2, 1))
        with (
            patch.object(copies, "counts", lambda _: {**rows, "drums": 1}),
            patch.object(rotation, "make_room"),
            self.assertRaisesRegex(OSError, "drums has 1 rows, and had 2"),
        ):
            rotation.tried_back(self.path)
        self.ask("drop table drums")

    def test_each_day_a_copy_and_those_of_old_thrown_away(self) -> None:
        folder = self.own / "copies"
        folder.mkdir()
        for day in range(1, 29):
            (folder / f"giusto-2026-01-{day:02}.tar").touch()
        (folder / "giusto-mine.tar").touch()
        told = self.own / "copies.json"
        with contextlib.ExitStack() as stack:
            stack.enter_context(patch.object(rotation, "TOLD", told))
            stack.enter_context(patch.object(rotation, "make_room"))
            stack.enter_context(patch.object(rotation, "database", lambda: contextlib.nullcontext(self.cluster)))
            rotation.every_day(folder, once=True)
            said = rotation.told()
            rotation.every_day(folder, once=True)  # nothing is due: a copy of today is there, and was tried
            self.assertEqual(rotation.told(), said)
        self.assertEqual((said["problem"], said["copies"]), ("", 8))
        self.assertGreater(said["rows"], 0)
        names = sorted(path.name for path in folder.iterdir())
        self.assertIn("giusto-mine.tar", names)  # somebody else's
        self.assertNotIn("giusto-2026-01-02.tar", names)
        self.assertEqual(len(names), 9)

    def test_seven_days_four_weeks_and_twelve_months_stay(self) -> None:
        days = [date(2026, 11, 30) - timedelta(days=n) for n in range(1000)]
        stay = sorted(rotation.kept(days), reverse=True)
        self.assertEqual(stay[:7], days[:7])
        self.assertEqual([f"{day:%d %b}" for day in stay[7:10]], ["22 Nov", "15 Nov", "31 Oct"])
        self.assertEqual((len(stay), stay[-1]), (7 + 2 + 11, date(2025, 12, 31)))

    def test_a_day_without_a_copy_is_told(self) -> None:
        told = self.own / "copies.json"
        with contextlib.ExitStack() as stack:
            stack.enter_context(patch.object(rotation, "TOLD", told))
            stack.enter_context(patch.object(rotation, "make_room"))
            stack.enter_context(patch.object(rotation, "database", side_effect=OSError("the disk is full")))
            rotation.every_day(self.own, once=True)
            self.assertEqual(rotation.told()["problem"], "the disk is full")

    def test_a_studios_authority_comes_along(self) -> None:
        there = self.own / "caddy/pki/authorities/local"
        there.mkdir(parents=True)
        (there / "root.key").write_text("a key", encoding="ascii")
        whole.write(self.cluster, self.path)
        (there / "root.key").write_text("another", encoding="ascii")
        self.put_back()
        self.assertEqual((there / "root.key").read_text(encoding="ascii"), "a key")
        self.assertEqual((there / "root.key").stat().st_mode & 0o777, 0o600)

    def test_a_sound_deleted_while_it_is_written_is_in_it(self) -> None:
        dump = copies.dump

        def deleted_meanwhile(cluster: Cluster, path: Path) -> None:
            dump(cluster, path)
            self.sound.unlink()
            (self.sounds / "late.flac").write_bytes(b"late")

        with patch.object(copies, "dump", deleted_meanwhile):
            self.assertEqual(whole.write(self.cluster, self.path), 2)
        with tarfile.open(self.path) as packed:
            self.assertIn("recordings/sounds/2026/a.flac", packed.getnames())
            self.assertEqual(packed.getnames()[-1], "manifest.json")

    def test_what_is_missing_is_said(self) -> None:
        self.ask("insert into takes_keptsound values ('sounds/gone.flac')")
        whole.write(self.cluster, self.path)
        self.assertIn("1 sounds are missing in", said := self.put_back())
        self.assertIn("sounds/gone.flac", said)

    def changed(self, change: Callable[[dict[str, bytes]], None]) -> None:
        """Write the copy anew with something changed in it."""
        whole.write(self.cluster, self.path)
        with tarfile.open(self.path) as packed:
            content = {name: packed.extractfile(name).read() for name in packed.getnames()}  # type: ignore[union-attr]
        change(content)
        with tarfile.open(self.path, "w") as packed:
            for name, data in content.items():
                member = tarfile.TarInfo(name)
                member.size = len(data)
                packed.addfile(member, io.BytesIO(data))

    def test_what_is_not_as_it_was_written_changes_nothing(self) -> None:
        def manifest(**changes: object) -> Callable[[dict[str, bytes]], None]:
            def change(content: dict[str, bytes]) -> None:
                content["manifest.json"] = json.dumps(json.loads(content["manifest.json"]) | changes).encode()

            return change

        cases = {
            "tampered": lambda files: files.update({"recordings/sounds/2026/a.flac": b"fLaC other"}),
            "one is missing": lambda files: files.pop("recordings/sounds/2026/a.flac"),
            "one is too many": lambda files: files.update({"recordings/more": b"x"}),
            "outside": lambda files: files.update({"recordings/../../x": b"x"}),
            "no manifest": lambda files: files.pop("manifest.json"),
            "manifest is a list": lambda files: files.update({"manifest.json": b"[]"}),
            "deep": lambda files: files.update({"manifest.json": b"[" * 100_000}),
            "of a later version": manifest(version="99.0.0"),
            "of another kind": manifest(giusto="archive/1"),
        }
        self.ask("insert into takes_keptsound values ('mark')")
        for name, change in cases.items():
            with self.subTest(name):
                self.changed(change)
                self.ask("update takes_keptsound set file = 'now' where file = 'mark'")
                said = io.StringIO()
                with contextlib.redirect_stderr(said), self.assertRaises(SystemExit):
                    whole.put_back(self.cluster, self.path)
                self.assertEqual(said.getvalue().count("\n"), 1, said.getvalue())
                self.assertIn("now", self.names())
                self.ask("update takes_keptsound set file = 'mark' where file = 'now'")

    def test_half_a_file_is_no_copy(self) -> None:
        whole.write(self.cluster, self.path)
        whole_file = self.path.read_bytes()
        for size in (0, 300, whole_file.index(b"manifest.json")):
            self.path.write_bytes(whole_file[:size])
            with self.subTest(size), contextlib.redirect_stderr(io.StringIO()), self.assertRaises(SystemExit):
                whole.put_back(self.cluster, self.path)

    def test_the_manifest_says_which_version_made_it(self) -> None:
        whole.write(self.cluster, self.path)
        with tarfile.open(self.path) as packed:
            plain = json.load(packed.extractfile("manifest.json"))  # type: ignore[arg-type]
        self.assertEqual((plain["giusto"], plain["version"]), ("backup/1", giusto.__version__))

    def test_a_full_disk_leaves_nothing(self) -> None:
        with (
            patch.object(whole, "_add", side_effect=OSError(28, "No space left on device")),
            self.assertRaises(OSError),
        ):
            whole.write(self.cluster, self.path)
        self.assertEqual([one for one in self.own.iterdir() if one.name.endswith((".tar", ".part"))], [])

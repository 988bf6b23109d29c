"""The project's own database server: made whole, killed, left behind, and back again."""

import contextlib
import io
import os
import signal
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

import psycopg

from launch import copies
from launch.cluster import Cluster, server_user


class ClusterTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(prefix="giusto-cluster-")
        self.addCleanup(folder.cleanup)
        if user := server_user(None):
            os.chown(folder.name, user.pw_uid, user.pw_gid)
        self.folder = Path(folder.name) / "cluster"

    def started(self) -> Cluster:
        cluster = Cluster(self.folder, settings=["fsync=off"], safe=False)
        cluster.start()
        self.addCleanup(cluster.stop)
        return cluster

    def ask(self, cluster: Cluster, statement: str) -> list[tuple]:
        password = cluster.environment["GIUSTO_DB_PASSWORD"]
        where = dict(host="127.0.0.1", port=cluster.port, user="giusto", dbname="giusto", password=password)
        with psycopg.connect(**where, autocommit=True) as connection:
            found = connection.execute(statement)
            return found.fetchall() if found.description else []

    def test_what_was_written_survives_kill_9(self) -> None:
        cluster = self.started()
        self.ask(cluster, "create table kept (n int)")
        self.ask(cluster, "insert into kept values (7)")
        assert cluster.process
        port = cluster.port
        cluster.process.send_signal(signal.SIGKILL)
        cluster.process.wait()
        cluster.start()
        self.assertEqual(cluster.port, port)
        self.assertEqual(self.ask(cluster, "select n from kept"), [(7,)])

    def test_a_half_made_cluster_is_made_again(self) -> None:
        making = self.folder.with_name("cluster.making")
        making.mkdir()
        (making / "PG_VERSION").write_text("15")
        self.folder.mkdir()
        (self.folder / "junk").write_text("no database")
        cluster = self.started()
        self.assertEqual(self.ask(cluster, "select 1"), [(1,)])
        self.assertEqual(len(list(self.folder.parent.glob("cluster.broken-*"))), 1)

    def test_a_server_left_behind_is_ended(self) -> None:
        first = self.started()
        again = self.started()
        self.assertEqual(self.ask(again, "select 1"), [(1,)])
        deadline = time.monotonic() + 10
        assert first.process
        while first.process.poll() is None and time.monotonic() < deadline:
            time.sleep(0.05)
        self.assertIsNotNone(first.process.poll())
        self.assertEqual(again.running_port(), again.port)

    def test_others_need_the_password(self) -> None:
        cluster = self.started()
        with self.assertRaises(psycopg.OperationalError):
            psycopg.connect(host="127.0.0.1", port=cluster.port, user="giusto", dbname="giusto", password="guess")

    def test_a_disk_that_is_not_there_is_told_and_nothing_is_made(self) -> None:
        self.folder.symlink_to(self.folder.parent / "not-mounted")
        self.folder.with_name("cluster.password").write_text("the only one")
        with self.assertRaises(SystemExit), contextlib.redirect_stderr(io.StringIO()) as said:
            Cluster(self.folder, safe=False).start()
        self.assertIn("is its disk mounted?", said.getvalue())
        self.assertEqual(self.folder.with_name("cluster.password").read_text(), "the only one")
        self.assertTrue(self.folder.is_symlink())

    def test_what_does_not_fit_the_data_is_told(self) -> None:
        cluster = self.started()
        cluster.stop()
        cluster.password_file.rename(cluster.password_file.with_suffix(".away"))
        with self.told("the database's password is missing"):
            _ = cluster.environment
        cluster.password_file.with_suffix(".away").rename(cluster.password_file)
        (self.folder / "PG_VERSION").write_text("9")
        with self.told("the data are PostgreSQL 9's"):
            Cluster(self.folder)

    @contextlib.contextmanager
    def told(self, line: str) -> Iterator[None]:
        said = io.StringIO()
        with contextlib.redirect_stderr(said), self.assertRaises(SystemExit):
            yield
        self.assertIn(line, said.getvalue())
        self.assertEqual(said.getvalue().count("\n"), 1)

    def test_a_backup_comes_back_whole(self) -> None:
        cluster = self.started()
        self.ask(cluster, "create table kept (n int)")
        self.ask(cluster, "insert into kept values (7)")
        path = self.folder.with_name("all.dump")
        copies.dump(cluster, path)
        self.ask(cluster, "delete from kept")
        self.ask(cluster, "create table later (n int)")
        with copies.restored(cluster, path):
            pass
        self.assertEqual(self.ask(cluster, "select n from kept"), [(7,)])
        self.assertEqual(self.ask(cluster, "select to_regclass('later')"), [(None,)])
        self.ask(cluster, "insert into kept values (8)")
        with self.assertRaises(SystemExit), contextlib.redirect_stderr(io.StringIO()):
            path.write_bytes(b"PGDMP and no more")
            with copies.restored(cluster, path):
                self.fail("it was taken")
        self.assertEqual(self.ask(cluster, "select n from kept"), [(7,), (8,)])

    def test_a_first_start_that_was_killed_begins_anew(self) -> None:
        cluster = self.started()
        self.assertTrue(cluster.unfinished.exists())
        self.ask(cluster, "create table half_made (n int)")
        cluster.begin_anew()
        self.assertEqual(self.ask(cluster, "select to_regclass('half_made')"), [(None,)])

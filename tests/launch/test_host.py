"""One process of a larger installation: what it refuses; that web, worker and migrate work from their environment."""

from __future__ import annotations

import http.client
import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from launch import host, place, roles
from launch.cluster import Cluster, server_user
from launch.place import ROOT
from launch.test import QUICK
from launch.web import ask_socket

NAME = "giusto.example"


class NeededTests(TestCase):
    def test_what_is_missing_is_refused_in_one_line(self) -> None:
        for command in host.COMMANDS:
            environment = {"PATH": os.environ["PATH"], "PYTHONPATH": str(ROOT / "src")}
            words = [command, "check"] if command == "manage" else [command]
            done = subprocess.run(
                [sys.executable, "-m", "launch.host", *words], env=environment, capture_output=True, check=False
            )
            lines = done.stderr.decode().splitlines()
            self.assertEqual((done.returncode, len(lines)), (1, 1))
            for name, what in host.NEEDED.items():
                self.assertIn(f"{name}: {what}", lines[0])

    def test_what_is_there_and_no_good_is_named(self) -> None:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        good = dict.fromkeys(host.NEEDED, "x") | {"GIUSTO_STORAGE": "s3:sounds"}
        file = Path(folder) / "secret"
        file.write_text("x", encoding="ascii")
        good |= {"GIUSTO_DB_PASSWORD_FILE": str(file), "GIUSTO_SECRET_KEY_FILE": str(file)}
        good |= {"GIUSTO_RUN": folder, "GIUSTO_STATIC": folder}
        self.assertEqual(host.missing_in(good), [])
        for name, value in (
            ("GIUSTO_STORAGE", "/a/folder"),
            ("GIUSTO_STORAGE", "s3:"),
            ("GIUSTO_STORAGE", "files:/nothing"),
            ("GIUSTO_SECRET_KEY_FILE", "/nothing"),
            ("GIUSTO_SECRET_KEYS_BEFORE_FILE", "/nothing"),
            ("GIUSTO_RUN", "/nothing"),
        ):
            with self.subTest(name, value=value):
                self.assertEqual([one for one, _ in host.missing_in(good | {name: value})], [name])
        pooled = host.missing_in(good | {"GIUSTO_DB_POOLER": "transaction"})
        self.assertEqual([one for one, _ in pooled], list(host.DIRECT))

    def test_another_word_is_refused(self) -> None:
        with patch.object(sys, "argv", ["host", "database"]), self.assertRaises(SystemExit):
            host.main()


class HostTests(TestCase):
    """The three on a cluster of their own, as its two roles."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory(prefix="giusto-host-")
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        if user := server_user(None):
            os.chown(cls.folder, user.pw_uid, user.pw_gid)
        with patch.object(place, "LOG", cls.folder):
            cls.cluster = Cluster(cls.folder / "cluster", settings=QUICK, safe=False)
            cls.cluster.start()
        cls.addClassCleanup(cls.cluster.stop)
        roles.make_roles(cls.cluster)
        for name in ("run", "static", "sounds"):
            (cls.folder / name).mkdir()
        (cls.folder / "key").write_text("a key for tests", encoding="ascii")
        (cls.folder / "keys-before").write_text("older\noldest\n", encoding="ascii")
        done = cls.run_host("migrate", roles.OWNER)
        assert done.wait(timeout=300) == 0, done.stderr and done.stderr.read()
        roles.shut(cls.cluster)

    @classmethod
    def run_host(cls, command: str, role: str, *words: str) -> subprocess.Popen[bytes]:
        """Start one process as a unit of systemd would."""
        password = cls.folder / f"{role}.password"
        password.write_text(roles.passwords(cls.cluster)[role], encoding="ascii")
        environment = {
            "PATH": os.environ["PATH"],
            "PYTHONPATH": str(ROOT / "src"),
            "GIUSTO_DB_HOST": "127.0.0.1",
            "GIUSTO_DB_PORT": str(cls.cluster.port),
            "GIUSTO_DB_NAME": "giusto",
            "GIUSTO_DB_USER": role,
            "GIUSTO_DB_PASSWORD_FILE": str(password),
            "GIUSTO_SECRET_KEY_FILE": str(cls.folder / "key"),
            "GIUSTO_SECRET_KEYS_BEFORE_FILE": str(cls.folder / "keys-before"),
            "GIUSTO_HOSTS": NAME,
            "GIUSTO_STORAGE": f"files:{cls.folder / 'sounds'}",
            "GIUSTO_RUN": str(cls.folder / "run"),
            "GIUSTO_STATIC": str(cls.folder / "static"),
            "GIUSTO_WEB_WORKERS": "1",
            "OPENBLAS_NUM_THREADS": "1",
        }
        log = (cls.folder / f"{command}.log").open("wb")
        return subprocess.Popen(
            [sys.executable, "-m", "launch.host", command, *words], env=environment, stdout=log, stderr=log
        )

    def test_keys_of_before_are_still_believed(self) -> None:
        self.assertEqual(self.run_host("manage", roles.SITE, "diffsettings").wait(timeout=120), 0)
        said = (self.folder / "manage.log").read_text(encoding="utf-8")
        self.assertIn("SECRET_KEY_FALLBACKS = ['older', 'oldest']", said)

    def started(self, command: str) -> subprocess.Popen[bytes]:
        process = self.run_host(command, roles.SITE)
        self.addCleanup(process.wait)
        self.addCleanup(process.send_signal, signal.SIGTERM)
        return process

    def ask(self, path: str, **headers: str) -> tuple[int, str]:
        """Ask the web host through its socket."""
        connection = http.client.HTTPConnection("localhost", timeout=20)
        connection.sock = socket.socket(socket.AF_UNIX)
        connection.sock.connect(str(self.folder / "run/web.sock"))
        connection.request("GET", path, headers={"Host": NAME, "X-Forwarded-Proto": "https", **headers})
        answer = connection.getresponse()
        return answer.status, answer.read().decode()

    def until(self, question: object, seconds: float = 90.0) -> None:
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            try:
                if question():  # type: ignore[operator]
                    return
            except OSError:
                pass
            time.sleep(0.2)
        self.fail("not in time")

    def test_the_first_owner(self) -> None:
        done = self.run_host("manage", roles.SITE, "own", "ilse", "--password", "a drum in the cellar")
        self.assertEqual(done.wait(timeout=120), 0)
        self.assertIn("ilse owns the studio", (self.folder / "manage.log").read_text())

    def test_web_and_worker_from_their_environment(self) -> None:
        self.started("web")
        self.started("worker")
        self.until(lambda: json.loads(ask_socket(self.folder / "run/web.sock", NAME)).get("alive"))
        self.assertEqual(self.ask("/ready/"), (200, '{"database": "well", "storage": "well", "queue": "well"}'))
        self.assertEqual(self.ask("/account/login/")[0], 200)
        self.assertEqual(self.ask("/today/", **{"X-Real-IP": "192.0.2.4"})[0], 302)
        status, figures = self.ask("/metrics/")
        self.assertEqual(status, 200)
        for line in ('giusto_requests_total{kind="account_login",status="2xx"} 1.0', "giusto_tasks_waiting 0.0"):
            self.assertIn(line, figures)
        self.assertEqual(self.ask("/metrics/", **{"X-Real-IP": "192.0.2.4"})[0], 404)  # for the machine alone
        self.assertEqual(self.ask("/alive/", Host="evil.example")[0], 400)
        self.until(lambda: (self.folder / "run/worker.alive").exists())
        lines = (self.folder / "web.log").read_text().splitlines()
        said = [json.loads(line) for line in lines if line.startswith("{")]
        self.assertTrue(any("Not Found" in one["what"] and one["request"] for one in said), lines)

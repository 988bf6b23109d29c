"""The files in deploy/: read by the programs that they are for, and nothing in them that the site does not know.

Outside checks: systemd-analyze, Caddy, HAProxy, each where it is here.
"""

from __future__ import annotations

import http.client
import json
import re
import shutil
import subprocess
import tempfile
import time
from pathlib import Path
from unittest import TestCase, skipUnless

from launch import host, roles
from launch.cluster import free_port
from launch.place import ROOT

DEPLOY = ROOT / "deploy"
UNITS = sorted((DEPLOY / "systemd").glob("*.service"))
BY_UNIT = {"GIUSTO_DB_PASSWORD_FILE", "GIUSTO_SECRET_KEY_FILE", "GIUSTO_RUN"}
MOST_EXPOSED = 1.5


def run(*command: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(command, capture_output=True, text=True, check=False)


def answer_of(port: int, accept: str) -> tuple[int, str, str]:
    """Return status, type and words of what stands at a port; it has ten seconds to begin."""
    until = time.monotonic() + 10
    while True:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=5)
        try:
            connection.request("GET", "/today/", headers={"Accept": accept})
            answer = connection.getresponse()
            return answer.status, answer.getheader("Content-Type", ""), answer.read().decode()
        except OSError:
            if time.monotonic() > until:
                raise
            time.sleep(0.1)
        finally:
            connection.close()


class DeployTests(TestCase):
    def names(self, path: str) -> set[str]:
        return set(re.findall(r"^([A-Z0-9_]+)=", (DEPLOY / path).read_text(encoding="utf-8"), re.MULTILINE))

    def test_the_environment_has_what_a_host_asks_for_and_nothing_else(self) -> None:
        named = self.names("environment.example")
        self.assertEqual({*host.NEEDED, *host.DIRECT} - named, BY_UNIT)
        told = (ROOT / "docs/operations.md").read_text(encoding="utf-8")
        for name in named | self.names("environment-owner.example"):
            part = name.removeprefix("GIUSTO_DB")
            self.assertTrue(name in told or f"`{part}`" in told or name.startswith("AWS_"), name)

    @skipUnless(shutil.which("systemd-analyze"), "systemd is not here")
    def test_units_allow_next_to_nothing(self) -> None:
        self.assertEqual(len(UNITS), 3)
        for unit in UNITS:
            said = run("systemd-analyze", "security", "--offline=true", str(unit)).stdout
            exposed = float(re.search(r"exposure level for \S+: ([0-9.]+)", said)[1])  # type: ignore[index]
            self.assertLessEqual(exposed, MOST_EXPOSED, unit.name)

    def test_units_give_what_the_environment_does_not(self) -> None:
        """In systemd a file of the environment is stronger than the unit: what units give may not stand there."""
        self.assertFalse(BY_UNIT & self.names("environment.example"))
        for unit in UNITS:
            text = unit.read_text(encoding="utf-8")
            for name in BY_UNIT:
                self.assertRegex(text, rf"(?m)^Environment=.*\b{name}=", unit.name)

    def test_web_may_give_its_socket_to_its_user(self) -> None:
        """Gunicorn calls chown, which systemd counts to the privileged: without it the unit never listens."""
        (web,) = (unit for unit in UNITS if unit.name == "giusto-web.service")
        filters = re.findall(r"^SystemCallFilter=(.*)$", web.read_text(encoding="utf-8"), re.MULTILINE)
        self.assertEqual(filters[-1], "@chown")

    def test_units_run_what_there_is(self) -> None:
        for unit in UNITS:
            words = re.search(r"^ExecStart=/opt/giusto/giusto host (\w+)$", unit.read_text(), re.MULTILINE)
            self.assertIn(words[1] if words else "", host.COMMANDS)

    @skipUnless(shutil.which("caddy"), "Caddy is not here")
    def test_caddy_reads_its_files(self) -> None:
        for file in ("Caddyfile", "one-host.Caddyfile"):
            done = run("caddy", "adapt", "--config", str(DEPLOY / "caddy" / file), "--adapter", "caddyfile")
            self.assertEqual(done.returncode, 0, done.stderr)

    @skipUnless(shutil.which("haproxy"), "HAProxy is not here")
    def test_haproxy_reads_its_file(self) -> None:
        text = (DEPLOY / "haproxy/haproxy.cfg").read_text(encoding="utf-8")
        text = text.replace("/etc/haproxy/503.http", str(DEPLOY / "haproxy/503.http"))
        text = re.sub(r" ssl crt \S+ alpn \S+", "", text)  # there is no certificate here
        with tempfile.NamedTemporaryFile("w", suffix=".cfg") as file:
            file.write(text)
            file.flush()
            done = run("haproxy", "-c", "-f", file.name)
        self.assertEqual(done.returncode, 0, done.stderr)

    @skipUnless(shutil.which("haproxy"), "HAProxy is not here")
    def test_a_person_reads_a_sentence_where_no_host_is_left_and_a_script_gets_json(self) -> None:
        """By HAProxy itself: the balancer's file on a port of its own, its hosts where nobody listens."""
        port = free_port()
        text = (DEPLOY / "haproxy/haproxy.cfg").read_text(encoding="utf-8")
        text = text.replace("/etc/haproxy/503.http", str(DEPLOY / "haproxy/503.http"))
        text = re.sub(r"    bind :443.*\n|    http-request redirect.*\n|    stats socket.*\n", "", text)
        text = text.replace("bind :80", f"bind 127.0.0.1:{port}")
        text = re.sub(r"10\.0\.0\.1\d:8000", f"127.0.0.1:{free_port()}", text)
        with tempfile.NamedTemporaryFile("w", suffix=".cfg") as file:
            file.write(text)
            file.flush()
            balancer = subprocess.Popen(["haproxy", "-db", "-f", file.name], stdout=subprocess.DEVNULL)
            try:
                until = time.monotonic() + 10  # it finds out by two looks that no host is there
                while "json" in (person := answer_of(port, "text/html,*/*"))[1] and time.monotonic() < until:
                    time.sleep(0.2)
                script = answer_of(port, "application/json")
            finally:
                balancer.terminate()
                balancer.wait(10)
        self.assertEqual(person[:2], (503, "text/plain; charset=utf-8"))
        self.assertIn("Load the page again in a moment.", person[2])
        self.assertEqual(script[:2], (503, "application/json"))
        self.assertIn("waits in this browser", json.loads(script[2])["error"])

    def test_roles_are_those_of_a_start(self) -> None:
        text = (DEPLOY / "postgresql/roles.sql").read_text(encoding="utf-8")
        for role in (roles.OWNER, roles.SITE):
            self.assertIn(f"create role {role} {roles.LOGIN};", text)
        for rights, table in roles.SHUT:
            self.assertIn(f"revoke {rights} on {table} from {roles.SITE};", text)

    def test_no_secret_lies_in_any_of_them(self) -> None:
        for path in DEPLOY.rglob("*"):
            if path.is_file():
                text = path.read_text(encoding="utf-8")
                self.assertNotRegex(text, r"(?im)^\s*(password|secret|.*cipher-pass|.*key-secret)\s*=\s*\S")
        self.assertTrue(Path(DEPLOY / "environment.example").exists())

"""The door of a studio: where it is found, what Caddy is told, what a phone is told."""

from __future__ import annotations

import os
import shutil
import ssl
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase, skipUnless
from unittest.mock import patch
from urllib.error import HTTPError
from urllib.request import Request, urlopen

from launch import proxy
from launch.cluster import free_port
from launch.proxy import AUTHORITY, Caddy, Door, caddyfile, page_of_trust
from launch.users import site_user

PLAIN = Door("giusto.local", "10.1.2.3", 443, 80)
SOCKETS = (Path("/run/web.sock"), Path("/run/recordings.sock"))


class DoorTests(TestCase):
    def test_addresses(self) -> None:
        self.assertEqual((PLAIN.address, PLAIN.first_address), ("https://giusto.local/", "http://10.1.2.3/"))
        high = Door("giusto.local", "10.1.2.3", 8443, 8080)
        self.assertEqual((high.address, high.first_address), ("https://giusto.local:8443/", "http://10.1.2.3:8080/"))
        self.assertEqual(high.hosts, ["giusto.local", "10.1.2.3"])

    def test_a_domain_of_ones_own_asks_nobody_to_trust_anything(self) -> None:
        own = Door("studio.example", "10.1.2.3", 443, 80, ("chain.pem", "key.pem"))
        self.assertEqual((own.has_own_authority, own.first_address), (False, "https://studio.example/"))
        text = caddyfile(own, *SOCKETS, Path("/own"))
        self.assertIn("tls chain.pem key.pem", text)
        self.assertNotIn("local_certs", text)
        self.assertNotIn("http://:80", text)

    def test_a_certificate_that_is_not_there_is_told(self) -> None:
        with patch.dict(os.environ, {"GIUSTO_CERTIFICATE": "nothing.pem"}), self.assertRaises(SystemExit):
            proxy.chosen_door()

    def test_the_address_can_be_chosen(self) -> None:
        with patch.dict(os.environ, {"GIUSTO_IP": "10.9.9.9", "GIUSTO_NAME": "drums.local"}):
            self.assertEqual((proxy.chosen_door().ip, proxy.chosen_door().name), ("10.9.9.9", "drums.local"))


class CaddyfileTests(TestCase):
    def test_slow_headers_and_bodies_end_and_who_asks_is_caddys_word(self) -> None:
        text = caddyfile(PLAIN, *SOCKETS, Path("/own"))
        for words in ("read_header 10s", "buffer_requests", "header_up X-Real-IP {remote_host}", "admin off"):
            self.assertIn(words, text)
        self.assertIn("https://giusto.local:443, https://10.1.2.3:443 {", text)
        self.assertIn("default_sni 10.1.2.3", text)  # clients by number send no name

    @skipUnless(shutil.which("caddy"), "Caddy is not here")
    def test_caddy_itself_reads_it(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for door in (PLAIN, Door("drums.local", "127.0.0.1", 8443, 8080)):
            (folder / "Caddyfile").write_text(caddyfile(door, *SOCKETS, folder), encoding="utf-8")
            command = ["caddy", "adapt", "--config", str(folder / "Caddyfile"), "--adapter", "caddyfile"]
            done = subprocess.run(command, capture_output=True, check=False, env={"HOME": str(folder)})
            self.assertEqual(done.returncode, 0, done.stderr.decode())


class AloneTests(TestCase):
    @skipUnless(shutil.which("caddy"), "Caddy is not here")
    def test_without_the_site_a_person_reads_a_sentence_and_a_script_its_line(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        folder.chmod(0o755)
        (folder / "caddy").mkdir()
        if user := site_user():
            os.chown(folder / "caddy", user.pw_uid, user.pw_gid)
        door = Door("giusto.local", "127.0.0.1", free_port(), free_port())
        caddy = Caddy(door, folder / "none.sock", folder / "none.sock", folder / "caddy")
        self.addCleanup(caddy.stop)
        caddy.start()
        trust = ssl.create_default_context(cafile=str(folder / "caddy" / AUTHORITY / "root.crt"))
        for accept, kind, starts in (
            ("text/html", "text/plain", "Giusto"),
            ("application/json", "application/json", "{"),
        ):
            asked = Request(f"https://127.0.0.1:{door.https}/today/", headers={"Accept": accept})
            with self.assertRaises(HTTPError) as caught:
                urlopen(asked, context=trust, timeout=30)
            with caught.exception as answer:
                self.assertEqual((answer.code, answer.headers.get_content_type()), (503, kind))
                self.assertTrue(answer.read().decode().startswith(starts))


class TrustTests(TestCase):
    def test_the_page_names_the_studio_and_the_way_back(self) -> None:
        text = page_of_trust(PLAIN)
        for words in ('href="https://giusto.local/"', "https://10.1.2.3/", "/giusto-ca.crt", "take it out again"):
            self.assertIn(words, text)
        self.assertNotIn("$", text)

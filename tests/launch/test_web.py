"""The web server: whose port it is, and who may hold it up."""

from __future__ import annotations

import http.server
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from launch import place, server, web
from launch.cluster import free_port

SILENT_S = 2  # for ten, so that nobody has to wait for it here
APP = f"""
from launch import server

server.SILENT_S = {SILENT_S}

def application(environ, start_response):
    start_response("200 OK", [("Content-Length", "5")])
    return [b"alive"]
"""


class PortTests(TestCase):
    def test_another_server_on_the_port_is_not_taken_for_ours(self) -> None:
        """Two checkouts started at once on one port were both told to be ready, and one answered for the other."""

        class Other(http.server.BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                body = b'{"alive": true, "ended": 0, "of": "another start"}'
                self.send_response(200)
                self.send_header("Content-Length", str(len(body)))
                self.end_headers()
                self.wfile.write(body)

            def log_message(self, *_: object) -> None:
                pass

        other = http.server.ThreadingHTTPServer((web.HOST, 0), Other)
        threading.Thread(target=other.serve_forever, daemon=True).start()
        self.addCleanup(other.shutdown)
        folder = self.enterContext(tempfile.TemporaryDirectory())
        self.enterContext(patch.object(place, "LOG", Path(folder)))
        self.enterContext(patch.object(web, "PID_FILE", Path(folder) / "web.pid"))
        ours = web.Web(other.server_address[1], {"DJANGO_SETTINGS_MODULE": "studio.settings.test"})
        self.addCleanup(ours.stop)
        with self.assertRaisesRegex(OSError, "another Giusto's: choose another, GIUSTO_PORT="):
            ours.start()
        self.assertIsNotNone(ours.process and ours.process.poll())


class SlowTests(TestCase):
    def test_half_a_header_holds_nobody_up_for_long(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (folder / "small_app.py").write_text(APP)
        port = free_port()
        command = [sys.executable, "-m", "gunicorn", "small_app", "--bind", f"127.0.0.1:{port}", "--threads", "2"]
        command += ["--worker-class", "launch.server.ImpatientWorker", "--no-control-socket", "--log-level", "critical"]
        path = os.pathsep.join([str(place.ROOT / "src"), str(folder)])
        process = subprocess.Popen(
            command, cwd=folder, env={**os.environ, "PYTHONPATH": path}, stderr=subprocess.DEVNULL
        )
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        address = f"http://127.0.0.1:{port}/"
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            try:
                urllib.request.urlopen(address, timeout=5).close()
                break
            except OSError:
                time.sleep(0.1)
        for _ in range(8):
            half = socket.create_connection(("127.0.0.1", port))
            self.addCleanup(half.close)
            half.sendall(b"GET / HTTP/1.1\r\nHost: loc")
        time.sleep(0.5)
        began = time.monotonic()
        with urllib.request.urlopen(address, timeout=100) as answer:
            self.assertEqual(answer.read(), b"alive")
        self.assertLess(time.monotonic() - began, 8 / 2 * SILENT_S + 12)
        self.assertLess(SILENT_S, server.SILENT_S)


class HeartbeatTests(TestCase):
    def test_workers_beat_where_they_may_write(self) -> None:
        """Root may write in a /dev/shm that is root's alone; the site's own user may not."""
        shared = Path("/dev/shm")
        found = web._heartbeats()
        self.assertEqual(found, shared if shared.is_dir() and shared.stat().st_mode & 0o002 else web.RUN)
        closed = os.stat_result((0o040755, *tuple(os.stat("/"))[1:]))
        with patch.object(Path, "stat", return_value=closed), patch.object(Path, "is_dir", return_value=True):
            self.assertEqual(web._heartbeats(), web.RUN)

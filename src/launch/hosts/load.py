"""Many hosts under an even load for some minutes: how long pages take, and whether any process grows."""

from __future__ import annotations

import base64
import http.client
import io
import json
import os
import random
import subprocess
import sys
import threading
import time
import wave
from array import array
from collections import defaultdict
from collections.abc import Iterator
from functools import cache
from itertools import count
from math import exp, pi, sin
from pathlib import Path
from statistics import median
from typing import Any

from launch.hosts.drill import Installation, installation
from launch.hosts.net import can_make
from launch.hosts.parts import HostPart
from launch.hosts.players import DRILL, SimulatedBrowser, play_all
from launch.place import ROOT, fail, say

PLAYERS = 20  # of a thousand, two in a hundred play at the busiest moment (ours)
MINUTES = 60.0
WARM = 0.2  # of the time, before which nothing counts
EACH_S = 10.0  # between looks at the memory
TAKE_S, BATCH_S, RATE_HZ = 40, 1.0, 48_000
SHORT = DRILL | {"cycles": 16}
PAGES = ("reading", "/today/", "/log/", "/progress/", "/work/")  # that are looked at after each take
# What is done after every so-manieth take besides: a file brought in, or a page that costs more.
FILES = {3: ("/recording/", "take.wav"), 4: ("/pieces/new/", "piece.musicxml")}
DEARER = {2: "/progress/figures/", 5: "each note", 7: "the month", 10: "/archive/giusto.zip"}
SCORE_BARS, BOUNDARY = 32, "giusto-load"
SOUNDS_MB = 4_000
PAGE_BYTES = os.sysconf("SC_PAGE_SIZE")


class PractisingBrowser(SimulatedBrowser):
    """A browser whose player practises: a take, its reading and some pages, and again."""

    batch_s = BATCH_S

    def run(self) -> None:
        """Play and look until the time is over."""
        for turn in count(random.randrange(12)):  # noqa: S311 (no secret: so that not all do the same at once)
            if time.time() >= self.until:
                return
            self.take = self.new_take()
            if not self.begin(SHORT):
                return
            batches = 0
            while batches < TAKE_S and time.time() < self.until:
                self.send_batch(batches)
                batches += 1
                time.sleep(self.batch_s)
            self.sent(f"/takes/{self.take}/end/", {"how": "complete", "batches": batches})
            for page in PAGES:
                self.look(page)
            self.do_more(turn)

    def do_more(self, turn: int) -> None:
        """Bring in a file, or open a page that costs more, each after every so-manieth take."""
        for each, (path, name) in FILES.items():
            if turn % each == 0:
                self.bring(path, name, _recording() if name.endswith("wav") else _score())
        for each, page in DEARER.items():
            if turn % each == 0:
                self.look(page)

    def batch(self, number: int) -> dict[str, object]:
        """Return a second of eighths at 100, as keys or as sound."""
        if self.has_sound:
            return {"notes": [], "pairs": [], "sound": [{"frame": RATE_HZ * number, "samples": _struck(number % 3)}]}
        eighths = range(-(-10 * number // 3), -(-10 * (number + 1) // 3))
        notes = [{"at_ms": 1000 + 300 * eighth + 7 * (eighth % 3 - 1), "source": "space"} for eighth in eighths]
        return {"notes": notes, "pairs": [[1.0 + number, 1000.0 + 1000 * number]]}

    def look(self, page: str) -> None:
        """Open a page, and note how long it took."""
        take = f"/takes/{self.take}/"
        named = {
            "reading": take,
            "each note": f"{take}?view=notes",
            "the month": time.strftime("/progress/month/%Y/%m/"),
        }
        self.timed(page, named.get(page, page))

    def bring(self, path: str, name: str, content: bytes) -> None:
        """Send a file as a form of the site does, and note how long it took."""
        head = f'Content-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
        body = f"--{BOUNDARY}\r\n{head}".encode() + content + f"\r\n--{BOUNDARY}--\r\n".encode()
        self.timed(f"{name} to {path}", path, body)

    def timed(self, page: str, path: str, body: bytes | None = None) -> None:
        """Ask for a page, or send a form, and note how long it took."""
        asked, headers = time.time(), self.headers("text/html")
        if body is not None:
            headers["Content-Type"] = f"multipart/form-data; boundary={BOUNDARY}"
        connection = http.client.HTTPConnection(self.address, timeout=60)
        try:
            connection.request("GET" if body is None else "POST", path, body, headers)
            answer = connection.getresponse()
            answer.read()
            status = str(answer.status)
        except (OSError, http.client.HTTPException) as error:
            status = type(error).__name__
        finally:
            connection.close()
        self.found.looks.append((page, time.time() - asked, status))


@cache
def _struck(second: int) -> str:
    """Return one of three seconds of strokes, each 300 ms, as 16 bits in base64: a decaying tone of 200 Hz."""
    samples = array("h")
    for frame in range(RATE_HZ):
        since_s = (second + frame / RATE_HZ) % 0.3
        samples.append(round(20_000 * exp(-since_s / 0.03) * sin(2 * pi * 200 * since_s)))
    return base64.b64encode(samples.tobytes()).decode()


@cache
def _recording() -> bytes:
    """Return what a recorder made of a take: its strokes as a WAV file."""
    found = io.BytesIO()
    with wave.open(found, "wb") as file:
        file.setparams((1, 2, RATE_HZ, 0, "NONE", ""))
        for second in range(TAKE_S):
            file.writeframes(base64.b64decode(_struck(second % 3)))
    return found.getvalue()


@cache
def _score() -> bytes:
    """Return a score of some bars of quarters as MusicXML 4.0."""
    note = "<note><pitch><step>C</step><octave>4</octave></pitch><duration>1</duration><type>quarter</type></note>"
    time_ = "<attributes><divisions>1</divisions><time><beats>4</beats><beat-type>4</beat-type></time></attributes>"
    bars = [f'<measure number="{n}">{time_ if n == 1 else ""}{4 * note}</measure>' for n in range(1, SCORE_BARS + 1)]
    parts = '<part-list><score-part id="P1"><part-name>Marimba</part-name></score-part></part-list>'
    whole = f'<score-partwise version="4.0">{parts}<part id="P1">{"".join(bars)}</part></score-partwise>'
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{whole}'.encode()


class Memory(threading.Thread):
    """Looks at the memory of each part's largest process now and then."""

    def __init__(self, parts: dict[str, HostPart]) -> None:
        super().__init__(daemon=True)
        self.parts, self.found = parts, defaultdict[str, list[float]](list)
        self.is_over = threading.Event()

    def run(self) -> None:
        """Look until it is over."""
        while not self.is_over.wait(EACH_S):
            for name, part in self.parts.items():
                if part.process:
                    self.found[name].append(max(_resident_mb(part.process.pid), default=0.0))


def _resident_mb(leader: int) -> Iterator[float]:
    """Give the memory of each process of a session, shared pages included."""
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                if os.getsid(int(entry.name)) == leader:
                    yield int((entry / "statm").read_text(encoding="ascii").split()[1]) * PAGE_BYTES / 1e6
            except (OSError, IndexError):
                continue  # it ended while it was looked at


def loaded(all_of_it: Installation, *, minutes: float) -> str:
    """Let players practise for some minutes; return what was found as Markdown."""
    parts: dict[str, HostPart] = {
        "web host": all_of_it.webs[0],
        "the other web host": all_of_it.webs[1],
        "worker": all_of_it.worker,
        "database": all_of_it.first,
        "balancer": all_of_it.balancer,
    }
    memory = Memory(parts)
    memory.start()
    command = [sys.executable, "-m", "launch.hosts.load", all_of_it.world.net.addresses["lb"], str(60 * minutes)]
    found = by_client(all_of_it, command, patience_s=60 * minutes + 600)
    memory.is_over.set()
    return report(found, memory.found, minutes=minutes)


def by_client(all_of_it: Installation, command: list[str], *, patience_s: float) -> Any:
    """Run a command on the client's host with a cookie of each player; return the JSON that it prints."""
    environment = {"PATH": os.environ["PATH"], "PYTHONPATH": str(ROOT / "src")}
    people = all_of_it.world.folder / "people"
    people.write_bytes(all_of_it.cookies)
    with people.open("rb") as told:
        playing = all_of_it.world.net.start("client", command, env=environment, stdin=told, stdout=subprocess.PIPE)
    return json.loads(playing.communicate(timeout=patience_s)[0])


def report(found: dict[str, list[list[object]]], memory: dict[str, list[float]], *, minutes: float) -> str:
    """Return what was found as two tables in Markdown, of the time after warming up.

    Parameters
    ----------
    found : dict
        ``Answers`` as JSON has them.
    memory : dict
        Of each part's largest process, in MB, one look after the other.
    minutes : float
    """
    times = [(float(str(at)), float(str(took)), str(status)) for at, took, status in found["requests"]]
    from_s = min((at for at, _, _ in times), default=0.0) + 60 * WARM * minutes
    sent = [(took, status) for at, took, status in times if at >= from_s]
    rows = [("a batch", [took for took, _ in sent], sum(status[0] != "2" for _, status in sent))]
    for page in dict.fromkeys(str(name) for name, _, _ in found["looks"]):
        some = [(float(str(took)), str(status)) for name, took, status in found["looks"] if name == page]
        some = some[int(WARM * len(some)) :]
        well = "23" if " to " in page else "2"  # a file that was taken in leads on to its page
        rows.append((page, [took for took, _ in some], sum(status[0] not in well for _, status in some)))
    lines = ["| asked for | times | refused | median ms | p95 ms | longest ms |", "|---|---|---|---|---|---|"]
    for name, took, refused in rows:
        if took:
            late = sorted(took)[int(0.95 * (len(took) - 1))]
            figures = " | ".join(f"{1000 * one:,.0f}" for one in (median(took), late, max(took)))
            lines.append(f"| {name} | {len(took):,} | {refused:,} | {figures} |")
    lines += [
        "",
        "| largest process of | MB after warming up | in the middle | at the end | most |",
        "|---|---|---|---|---|",
    ]
    for name, looks in memory.items():
        warm = looks[int(WARM * len(looks)) :]
        if len(warm) >= 3:
            third = len(warm) // 3
            means = [sum(some) / len(some) for some in (warm[:third], warm[third : 2 * third], warm[2 * third :])]
            lines.append(f"| {name} | " + " | ".join(f"{one:,.0f}" for one in (*means, max(warm))) + " |")
    return "\n".join(lines)


def main() -> None:
    """Run the load, and print its tables; with an address, be its players."""
    if len(sys.argv) == 3:
        play_all(PractisingBrowser, sys.argv[1], float(sys.argv[2]))
        return
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else MINUTES
    if not can_make():
        fail("no hosts can be made here: it needs root, ip, and leave to make network namespaces")
    with installation(replicas=1, players=PLAYERS, sounds_mb=SOUNDS_MB) as all_of_it:
        say(f"{PLAYERS} players practise for {minutes:g} minutes")
        print(loaded(all_of_it, minutes=minutes))


if __name__ == "__main__":
    main()

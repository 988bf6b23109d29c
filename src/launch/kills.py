"""``./giusto drill kills``: every part killed again and again under players; what is lost, doubled, left behind.

A Giusto of its own in a folder of its own, with takes by keys, takes by sound and recordings under way at each kill.
Players send as the page's scripts do: numbered, again until it is acknowledged.
"""

from __future__ import annotations

import base64
import contextlib
import io
import json
import os
import random
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, LiteralString
from urllib.error import HTTPError
from urllib.request import HTTPCookieProcessor, OpenerDirector, Request, build_opener
from uuid import uuid4

import numpy as np
import psycopg
import soundfile

from giusto.drill import validate
from giusto.schedule import schedule
from giusto.simulation.instrument import LEAD_S, RATE_HZ, Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from launch.cluster import DATABASE, HOST, USER, free_port
from launch.hosts.players import DRILL as PLAYED
from launch.hosts.players import PIECE
from launch.place import ROOT, say

TIMES = 10
ROUND_S = 66.0  # a part that lived for a minute is well again, and is started again at once
KEYS, SOUNDS, RECORDINGS = 4, 4, 6
DRILL = {**PLAYED, "name": "Under fire", "cycles": 20}
WORDS = "/recording/?drill=two-heard-two-silent&bpm=96&cycles=12"
ZERO_S, OFFSET_MS = 2.0, 1500.0
PARTS = ("web server", "one web worker", "database", "a database process", "worker", "second worker")


def main() -> None:
    """Run the drill, and print its table as Markdown."""
    if sys.argv[1:2] != ["kills"] or len(sys.argv) > 3 or not all(word.isdecimal() for word in sys.argv[2:]):
        say("give what is drilled: ./giusto drill kills [TIMES]")
        sys.exit(2)
    times = int(sys.argv[2]) if len(sys.argv) > 2 else TIMES
    with _giusto() as site:
        seconds = _rounds(site, times)
        say("waiting until all is read")
        with contextlib.suppress(TimeoutError):  # what is not read by then is counted
            site.until(lambda: not site.busy(), 300)
        counts = site.counted()
    counts["players that gave up"] = times * (KEYS + SOUNDS) - len(site.sent.notes) - len(site.sent.sounds)
    counts["processes left after the end"] = len(site.processes())
    print(table(seconds, counts, times))


@dataclass
class Sent:
    """What players sent, as they know it."""

    notes: dict[str, int] = field(default_factory=dict)
    sounds: dict[str, bytes] = field(default_factory=dict)
    files: set[str] = field(default_factory=set)


@dataclass(frozen=True)
class Process:
    """A process as the system tells of it."""

    pid: int
    parent: int
    words: str
    told: str  # its environment


class Site:
    """The Giusto that is drilled."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.sent, self.port = folder, Sent(), free_port()
        self.address = f"http://{HOST}:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it as a person would, and wait until it answers."""
        environment = {**os.environ, "GIUSTO_OWN": str(self.folder), "GIUSTO_PORT": str(self.port)}
        command = [sys.executable, "-m", "launch.start"]
        self.process = subprocess.Popen(command, env=environment, cwd=ROOT, start_new_session=True)
        self.until(self.is_well, 300)
        self.until(lambda: not self.runs("catch_up"), 900)

    def stop(self) -> None:
        """End it as a person would."""
        if self.process:
            self.process.send_signal(signal.SIGTERM)
            self.process.wait(timeout=120)

    def until(self, is_so: Callable[[], bool], seconds: float) -> float:
        """Wait until something is so; return how long that took."""
        began = time.monotonic()
        while not is_so():
            if time.monotonic() - began > seconds:
                raise TimeoutError(f"not within {seconds:.0f} s")
            time.sleep(0.1)
        return time.monotonic() - began

    def is_well(self) -> bool:
        """Whether pages answer and both workers give signs of life."""
        try:
            build_opener().open(f"{self.address}/ready/", timeout=5).close()
            before = [self._sign(name) for name in ("worker", "second worker")]
            time.sleep(1.1)
            return all(one != self._sign(name) for one, name in zip(before, ("worker", "second worker"), strict=True))
        except OSError:
            return False

    def _sign(self, name: str) -> str:
        return (self.folder / "run" / f"{name}.alive").read_text()

    def processes(self) -> list[Process]:
        """Return all processes of it, but the database server's own children."""
        return [process for process in _processes() if self._is_mine(process)]

    def _is_mine(self, process: Process) -> bool:
        own = f"GIUSTO_OWN={self.folder}" in process.told or str(self.folder) in process.words
        return own and "launch.kills" not in process.words

    def runs(self, word: str) -> bool:
        """Whether a process with this word in its command line is under way."""
        return any(word in process.words for process in self.processes())

    def of(self, part: str) -> list[int]:
        """Return the processes of a part that can be killed."""
        mine = self.processes()
        masters = [one.pid for one in mine if "gunicorn" in one.words and one.parent == self._pid()]
        servers = [one.pid for one in mine if "/postgres -D" in one.words and one.parent == self._pid()]
        lanes = {"worker": "now,default", "second worker": "default,long"}
        if part in lanes:
            return [one.pid for one in mine if "django work" in one.words and lanes[part] in one.words]
        if part == "one web worker":
            return [one.pid for one in mine if "gunicorn" in one.words and one.parent in masters]
        if part == "a database process":
            return [one.pid for one in _processes() if one.parent in servers and USER in one.words]
        return masters if part == "web server" else servers

    def _pid(self) -> int:
        return self.process.pid if self.process else 0

    def connection(self) -> psycopg.Connection:
        """Return a connection of the server's superuser."""
        port = int((self.folder / "cluster" / "postmaster.pid").read_text().split("\n")[3])
        password = (self.folder / "cluster.password").read_text()
        return psycopg.connect(host=HOST, port=port, user=USER, password=password, dbname=DATABASE, autocommit=True)

    def ask(self, statement: LiteralString, *given: object) -> list[tuple[Any, ...]]:
        """Return rows of the database."""
        with self.connection() as connection:
            return connection.execute(statement, given).fetchall()

    def busy(self) -> bool:
        """Whether something waits to be heard or read."""
        waiting = self.ask("select count(*) from recordings_upload where state in ('waiting', 'hearing')")[0][0]
        mine = [*self.sent.notes, *self.sent.sounds]
        read = self.ask("select count(*) from takes_reading where take_id::text = any(%s)", mine)[0][0]
        return bool(waiting) or read < len(mine)

    def counted(self) -> dict[str, int]:
        """Return what is lost, doubled and left behind."""
        there = {
            str(take): len(onsets or ()) for take, onsets in self.ask("select take_id, onsets_s from takes_reading")
        }
        kept = dict(self.ask("select take_id::text, file from takes_keptsound"))
        uploads = self.ask("select name, state, take_id is not null from recordings_upload")
        done = [name for name, state, has_take in uploads if state == "done" and has_take]
        samples = [self._samples(kept.get(take)) for take in self.sent.sounds]
        wanted = [np.frombuffer(sound, "<i2") for sound in self.sent.sounds.values()]
        files = sum(path.is_file() for path in (self.folder / "recordings" / "uploads").rglob("*"))
        return {
            "notes sent by keys": sum(self.sent.notes.values()),
            "notes lost": sum(max(count - there.get(take, 0), 0) for take, count in self.sent.notes.items()),
            "notes doubled": sum(max(there.get(take, 0) - count, 0) for take, count in self.sent.notes.items()),
            "samples of sound sent": sum(one.size for one in wanted),
            "samples lost or changed": sum(
                abs(one.size - two.size) + int((one[: two.size] != two[: one.size]).sum())
                for one, two in zip(samples, wanted, strict=True)
            ),
            "takes not read": len(self.sent.notes.keys() - there.keys()) + len(self.sent.sounds.keys() - there.keys()),
            "recordings dropped": len(self.sent.files),
            "recordings lost": len(self.sent.files - set(done)),
            "recordings doubled": len(done) - len(set(done)),
            "pieces of sound left": self.ask("select count(*) from takes_soundpiece")[0][0],
            "tasks left running": self.ask(
                "select count(*) from django_tasks_database_dbtaskresult where status = 'RUNNING'"
            )[0][0],
            "files left in uploads": files,
            "files left in the spool": sum(one.is_file() for one in (self.folder / "run" / "spool").rglob("*")),
        }

    def _samples(self, name: str | None) -> np.ndarray:
        if not name:
            return np.zeros(0, dtype=np.int16)
        return np.asarray(soundfile.read(self.folder / "recordings" / name, dtype="int16")[0])


def _processes() -> list[Process]:
    """Return the processes of this machine that can be looked at."""
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdecimal():
            continue
        with contextlib.suppress(OSError, IndexError):
            words = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
            told = (entry / "environ").read_bytes().replace(b"\0", b"\n").decode(errors="replace")
            parent = int((entry / "stat").read_text(errors="replace").rpartition(")")[2].split()[1])
            if words:  # a zombie has none
                found.append(Process(int(entry.name), parent, words, told))
    return found


class Sender:
    """A browser: its cookie, and messages that are sent until they are acknowledged."""

    def __init__(self, site: Site) -> None:
        self.site = site
        self.opener: OpenerDirector = build_opener(HTTPCookieProcessor())
        self.token = ""

    def post(self, path: str, body: bytes, kind: str = "application/json") -> None:
        """Send something again and again until it is acknowledged."""
        while not self.tried(path, body, kind):
            time.sleep(0.5)

    def tried(self, path: str, body: bytes, kind: str) -> bool:
        """Send something once; return whether it was acknowledged."""
        try:
            if not self.token:
                with self.opener.open(f"{self.site.address}/alive/", timeout=30) as answer:
                    cookie = next(value for name, value in answer.headers.items() if name == "Set-Cookie")
                    self.token = cookie.partition("=")[2].partition(";")[0]
            headers = {"Content-Type": kind, "Accept": "application/json", "X-CSRFToken": self.token}
            self.opener.open(Request(f"{self.site.address}{path}", body, headers), timeout=30).close()  # noqa: S310 - ours
        except HTTPError as error:
            if error.code < 500:
                raise AssertionError(f"{path}: {error.code} {error.read()[:200]!r}") from None
            return False
        except OSError:
            return False
        return True


def _take(site: Site, number: int, messages: list[dict[str, Any]], **changes: Any) -> str:
    """Play a take over most of a round; return its number."""
    player, take = Sender(site), str(uuid4())
    now = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
    begin = {"drill": DRILL, "input": "keys", "device": {"sample_rate_hz": 48000}, "zero_audio_s": ZERO_S}
    player.post(f"/takes/{take}/begin/", json.dumps({**begin, "started_at": now, **changes}).encode())
    for at, message in enumerate(messages):
        player.post(f"/takes/{take}/batches/{at}/", json.dumps(message).encode())
        time.sleep(0.8 * ROUND_S / len(messages))
    player.post(f"/takes/{take}/end/", json.dumps({"how": "complete", "batches": len(messages)}).encode())
    return take


def play_keys(site: Site, number: int) -> None:
    """Play a take by keys."""
    onsets_s = simulate(schedule(validate(DRILL)), SimulatedPlayer(), seed=number).onsets_s
    messages = []
    for some in np.array_split(onsets_s, max(onsets_s.size // 4, 1)):
        stamps = [1000 * (float(onset) + ZERO_S) + OFFSET_MS for onset in some]
        pairs = [[(at - OFFSET_MS) / 1000, at] for at in (stamps[0], stamps[-1] + 1)]
        messages.append({"notes": [{"at_ms": at, "source": "space"} for at in stamps], "pairs": pairs})
    site.sent.notes[_take(site, number, messages)] = int(onsets_s.size)


def play_sound(site: Site, number: int) -> None:
    """Play a take by sound, which is to be kept."""
    plan = schedule(validate({**DRILL, "cycles": 8}))
    room = Room("skin", -25.0, -60.0, 40.0)
    sound = recording(plan, simulate(plan, SimulatedPlayer(), seed=number).onsets_s, room, seed=number)
    whole = np.round(32767 * np.clip(sound, -1, 1)).astype("<i2")
    first = round((ZERO_S - LEAD_S) * RATE_HZ)
    pieces = [
        {"frame": first + at, "samples": base64.b64encode(whole[at : at + PIECE].tobytes()).decode()}
        for at in range(0, whole.size, PIECE)
    ]
    messages = [{"notes": [], "pairs": [], "sound": pieces[at : at + 6]} for at in range(0, len(pieces), 6)]
    take = _take(
        site,
        number,
        messages,
        drill={**DRILL, "cycles": 8},
        input="microphone",
        device={"sample_rate_hz": RATE_HZ, "voice": "wood"},
        hearing={"by": "microphone", "device": "desk", "keep": True},
    )
    site.sent.sounds[take] = whole.tobytes()


def drop(site: Site, number: int) -> None:
    """Drop a recording; where no answer comes, look whether it is there before it is dropped again."""
    plan = schedule(validate({**DRILL, "cycles": 12, "tempo": {"bpm": 96, "beat": "1/4"}}))
    sound = recording(plan, simulate(plan, SimulatedPlayer(), seed=number).onsets_s, Room("wood", -25.0), seed=number)
    buffer, name = io.BytesIO(), f"{number}-{uuid4()}.wav"
    soundfile.write(buffer, sound, RATE_HZ, format="WAV")
    edge = uuid4().hex
    head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
    body = head.encode() + buffer.getvalue() + f"\r\n--{edge}--\r\n".encode()
    player = Sender(site)
    time.sleep(random.random() * 0.6 * ROUND_S)  # noqa: S311 - nobody guesses it
    site.sent.files.add(name)
    while not player.tried(WORDS, body, f"multipart/form-data; boundary={edge}"):
        time.sleep(3)
        with contextlib.suppress(psycopg.OperationalError, OSError, ValueError):
            if site.ask("select 1 from recordings_upload where name = %s", name):
                return


@contextlib.contextmanager
def _giusto() -> Iterator[Site]:
    """Give a Giusto in a folder of its own, ended and thrown away."""
    folder = Path(tempfile.mkdtemp(prefix="giusto-kills-", dir="/var/tmp"))
    folder.chmod(0o755)
    site = Site(folder)
    try:
        site.start()
        yield site
    finally:
        site.stop()
        shutil.rmtree(folder, ignore_errors=True)


def _rounds(site: Site, times: int) -> dict[str, list[float]]:
    """Kill each part so many times under players; return the seconds until all was well, by part."""
    seconds: dict[str, list[float]] = {part: [] for part in PARTS}
    for at in range(times):
        say(f"round {at + 1} of {times}")
        began = time.monotonic()
        jobs = [play_keys] * KEYS + [play_sound] * SOUNDS + [drop] * RECORDINGS
        players = [
            threading.Thread(target=job, args=(site, 100 * at + number)) for number, job in enumerate(jobs, start=1)
        ]
        for player in players:
            player.start()
        for part in random.sample(PARTS, len(PARTS)):
            time.sleep(2)
            if pids := site.of(part):
                os.kill(random.choice(pids), signal.SIGKILL)  # noqa: S311 - nobody guesses it
            seconds[part].append(site.until(site.is_well, 180))
        for player in players:
            player.join()
        time.sleep(max(0.0, ROUND_S - (time.monotonic() - began)))
    return seconds


def table(seconds: dict[str, list[float]], counts: dict[str, int], times: int) -> str:
    """Return what was found as two tables in Markdown."""
    lines = [f"| killed, {times} times each | s until well, median | longest |", "|---|---|---|"]
    lines += [f"| {part} | {statistics.median(some):.0f} | {max(some):.0f} |" for part, some in seconds.items()]
    lines += ["", "| counted at the end | |", "|---|---|"]
    lines += [f"| {what} | {count:,} |" for what, count in counts.items()]
    return "\n".join(lines)


if __name__ == "__main__":
    main()

"""Simulated browsers: each sends numbered batches with notes and sound, again until they are acknowledged.

Run on the client's host: ``python -m launch.hosts.players ADDRESS SECONDS < COOKIES > FOUND``.
"""

from __future__ import annotations

import base64
import http.client
import json
import sys
import threading
import time
from dataclasses import asdict, dataclass, field
from typing import Any
from uuid import uuid4

NAME, TOKEN = "giusto.example", "a" * 32
PAUSE_S, PATIENCE_S, ANSWER_S = 0.3, 90.0, 12.0
DRILL: dict[str, Any] = {
    "giusto": "drill/1",
    "tempo": {"bpm": 100, "beat": "1/4"},
    "cycle": {"beats": 4, "groups": [4]},
    "clicks": {"on": ["1", "2", "3", "4"], "every": 1, "silence": {"kind": "fixed", "heard": 2, "silent": 2}},
    "part": {"grid": 2, "play": "grid"},
    "count_in": 1,
    "cycles": 400,
    "close": 1,
}
PIECE = 4096  # samples


@dataclass
class Answers:
    """What players saw: each request with when, how long, what was answered; what was acknowledged; pages looked at."""

    requests: list[tuple[float, float, str]] = field(default_factory=list)
    acknowledged: list[tuple[float, str, int]] = field(default_factory=list)
    looks: list[tuple[str, float, str]] = field(default_factory=list)
    gave_up: int = 0


class SimulatedBrowser(threading.Thread):
    """A browser with a take."""

    def __init__(self, address: str, cookie: str, until: float, found: Answers, *, has_sound: bool) -> None:
        super().__init__(daemon=True)
        self.address, self.cookie, self.until, self.found, self.has_sound = address, cookie, until, found, has_sound
        self.take = self.new_take()

    def run(self) -> None:
        """Begin a take, send batches until the time is over."""
        number = 0
        if not self.begin(DRILL):
            return
        while time.time() < self.until:
            self.send_batch(number)
            number += 1
            time.sleep(PAUSE_S)

    def new_take(self) -> str:
        """Return a name for a take, as a page makes it."""
        return str(uuid4())

    def begin(self, drill: dict[str, Any]) -> bool:
        """Begin the take; return whether that was acknowledged."""
        begun = {"drill": drill, "input": "keys", "zero_audio_s": 1.0, "device": {"sample_rate_hz": 48000}}
        if self.has_sound:
            begun |= {"input": "microphone", "hearing": {"by": "microphone"}}
        begun["started_at"] = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
        return self.sent(f"/takes/{self.take}/begin/", begun)

    def send_batch(self, number: int) -> None:
        """Send a batch, and note that it was acknowledged."""
        if self.sent(f"/takes/{self.take}/batches/{number}/", self.batch(number)):
            self.found.acknowledged.append((time.time(), self.take, number))

    def batch(self, number: int) -> dict[str, object]:
        """Return a batch: four notes, or a piece of sound."""
        if self.has_sound:
            samples = base64.b64encode(bytes(2 * PIECE)).decode()
            return {"notes": [], "pairs": [], "sound": [{"frame": PIECE * number, "samples": samples}]}
        notes = [{"at_ms": 1000.0 + 500 * number + one, "source": "space"} for one in range(4)]
        return {"notes": notes, "pairs": [[number / 2, 500.0 * number]]}

    def sent(self, path: str, body: dict[str, object]) -> bool:
        """Send something until it is acknowledged; False where that took too long."""
        text, began = json.dumps(body), time.time()
        while time.time() - began < PATIENCE_S:
            asked = time.time()
            status = self.ask(path, text)
            self.found.requests.append((asked, time.time() - asked, status))
            if status == "200":
                return True
            time.sleep(0.3 if time.time() - began < 3 else 1.0)
        self.found.gave_up += 1
        return False

    def ask(self, path: str, text: str) -> str:
        """Send something once; return its status, or what went wrong."""
        connection = http.client.HTTPConnection(self.address, timeout=ANSWER_S)
        try:
            connection.request("POST", path, text, self.headers("application/json"))
            answer = connection.getresponse()
            answer.read()
        except (OSError, http.client.HTTPException) as error:
            return type(error).__name__
        finally:
            connection.close()
        return str(answer.status)

    def headers(self, accept: str) -> dict[str, str]:
        """Return what a page of the site sends with each request."""
        return {
            "Host": NAME,
            "Origin": f"https://{NAME}",
            "Content-Type": "application/json",
            "Accept": accept,
            "Cookie": f"{self.cookie}; __Host-giusto-csrf={TOKEN}",
            "X-CSRFToken": TOKEN,
        }


def main() -> None:
    """Play, and print what was found."""
    play_all(SimulatedBrowser, sys.argv[1], float(sys.argv[2]))


def play_all(browser: type[SimulatedBrowser], address: str, seconds: float) -> None:
    """Let a browser of a kind play for each cookie that comes in, half of them with sound; print what was found."""
    found, until = Answers(), time.time() + seconds
    cookies = sys.stdin.read().split("\n")[:-1]
    players = [
        browser(address, cookie, until, found, has_sound=number % 2 == 1) for number, cookie in enumerate(cookies)
    ]
    for player in players:
        player.start()
    for player in players:
        player.join()
    json.dump(asdict(found), sys.stdout)


if __name__ == "__main__":
    main()

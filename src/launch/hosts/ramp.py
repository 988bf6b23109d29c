"""More and more browsers, a batch of notes a second each, until a batch waits a second: what an installation carries.

Run on the client's host: ``python -m launch.hosts.ramp ADDRESS < COOKIES > FOUND``.
"""

from __future__ import annotations

import json
import sys
import time
from dataclasses import asdict, dataclass
from statistics import median

from launch.hosts.drill import installation
from launch.hosts.load import PLAYERS, PractisingBrowser, by_client
from launch.hosts.net import can_make
from launch.hosts.players import DRILL, Answers
from launch.place import fail

STEPS = (10, 20, 30, 40, 60, 80, 100, 130, 160, 200, 250, 320, 400, 500)  # browsers
SETTLE_S, STEP_S = 3.0, 15.0
LONGEST_S = 1.0  # a batch may wait
PATIENCE_S = 900.0


@dataclass(frozen=True, slots=True)
class RampStep:
    """So many browsers for a while: batches acknowledged a second, how long they waited, how many were refused."""

    browsers: int
    a_second: float
    median_s: float
    p95_s: float
    longest_s: float
    refused: int

    @property
    def is_borne(self) -> bool:
        """Whether no batch waited too long, and none was refused."""
        return self.longest_s <= LONGEST_S and not self.refused


class SteadyBrowser(PractisingBrowser):
    """A browser whose take never ends: a batch of notes each second."""

    def run(self) -> None:
        """Send until the time is over, each second on its own moment."""
        if not self.begin(DRILL):
            return
        began = time.time()
        for number in range(10**6):
            if self.until < time.time():
                return
            self.send_batch(number)
            time.sleep(max(0.0, began + number + 1 - time.time()))


def ramp(address: str, cookies: list[str]) -> list[RampStep]:
    """Add browsers until a batch waits too long; return each step, the last of which was too much."""
    found, browsers, steps = Answers(), list[SteadyBrowser](), list[RampStep]()
    for most in STEPS:
        while len(browsers) < most:
            cookie = cookies[len(browsers) % len(cookies)]
            browsers.append(SteadyBrowser(address, cookie, time.time() + 3600, found, has_sound=False))
            browsers[-1].start()
            time.sleep(SETTLE_S / most)  # not all on the same moment of the second
        time.sleep(SETTLE_S)
        steps.append(_step(found, most))
        if not steps[-1].is_borne:
            break
    return steps


def _step(found: Answers, browsers: int) -> RampStep:
    began = time.time()
    time.sleep(STEP_S)
    some = [(took, status) for at, took, status in list(found.requests) if at >= began]
    took = sorted(seconds for seconds, _ in some) or [float("inf")]
    refused = sum(status != "200" for _, status in some)
    late = took[int(0.95 * (len(took) - 1))]
    return RampStep(browsers, (len(some) - refused) / STEP_S, median(took), late, took[-1], refused)


def table(steps: list[RampStep]) -> str:
    """Return the steps as Markdown."""
    lines = ["| browsers | batches a second | median ms | p95 ms | longest ms | refused |", "|---|---|---|---|---|---|"]
    for one in steps:
        figures = " | ".join(f"{1000 * seconds:,.0f}" for seconds in (one.median_s, one.p95_s, one.longest_s))
        lines.append(f"| {one.browsers} | {one.a_second:.0f} | {figures} | {one.refused} |")
    return "\n".join(lines)


def main() -> None:
    """Run it, and print its table; with an address, be its players."""
    if len(sys.argv) == 2:
        json.dump([asdict(step) for step in ramp(sys.argv[1], sys.stdin.read().split())], sys.stdout)
        return
    if not can_make():
        fail("no hosts can be made here: it needs root, ip, and leave to make network namespaces")
    with installation(replicas=1, players=PLAYERS) as all_of_it:
        address = all_of_it.world.net.addresses["lb"]
        found = by_client(all_of_it, [sys.executable, "-m", "launch.hosts.ramp", address], patience_s=PATIENCE_S)
    print(table([RampStep(**one) for one in found]))


if __name__ == "__main__":
    main()

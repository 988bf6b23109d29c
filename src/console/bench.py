"""Play simulated players whose truth is known, and print how true their readings are."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np

from console.bench_hearing import print_hearing
from console.bench_over_takes import print_over_takes
from giusto.simulation.benchmark import HANDS, Tally, after_takes, benchmark, cost, lost_beats, odd_hands, slips
from giusto.simulation.fuzz import case
from giusto.simulation.learner import schools

HEAD = (
    f"{'player':8} {'silent':>6} {'takes':>5} {'notes':>7} {'wrong %':>7} {'RMSE/o':>6}"
    f" {'drift':>6} {'return':>6} {'tend.':>6} {'clock':>6} {'hand':>6} {'alpha':>6} {'false':>6}"
)

KNOWN_WANDERS = (0.0, 1.0, 1.5)  # percent, 1/f


def whole(text: str) -> int:
    """Return a whole number from 0."""
    if not text.isascii() or not text.isdecimal():
        raise argparse.ArgumentTypeError(f"{text!r} is no whole number from 0")
    return int(text)


def positive(text: str) -> int:
    """Return a whole number from 1."""
    if whole(text) == 0:
        raise argparse.ArgumentTypeError("0 is too few, allowed is at least 1")
    return int(text)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add this command's arguments."""
    parser.add_argument("--seed", type=whole, default=1, help="the same seed plays the same takes (1)")
    parser.add_argument("--repeats", type=positive, default=1, help="takes for each cell and bias (1)")
    parser.add_argument("--hands", nargs="+", choices=list(HANDS), default=list(HANDS), help="kinds of player (all)")
    parser.add_argument("--odd", type=whole, default=5000, help="odd takes of odd drills that must not fail (5000)")
    parser.add_argument(
        "--learners", type=whole, default=0, help="learners on each school's ladder; nothing else then (0)"
    )
    parser.add_argument(
        "--over-takes",
        type=whole,
        metavar="PLAYERS",
        default=0,
        help="only what is said over takes, by so many players a hand (0)",
    )
    parser.add_argument("--hearing", action="store_true", help="only how well and how fast onsets are heard")
    parser.add_argument("--kit", type=Path, metavar="FOLDER", help="hear recorded strokes in a folder, one a file")
    parser.add_argument("--no-cost", action="store_true", help="leave out time and memory")


def run(chosen: argparse.Namespace) -> None:
    """Print the table, a row for each kind of player and length of silence, then all together."""
    if chosen.learners:
        climb_schools(chosen.learners, seed=chosen.seed)
    elif chosen.over_takes:
        print_over_takes(seed=chosen.seed, players=chosen.over_takes)
    elif chosen.hearing or chosen.kit:
        print_hearing(seed=chosen.seed, kit=chosen.kit)
    else:
        players(chosen)


def players(chosen: argparse.Namespace) -> None:
    """Print how true the readings of simulated players are, and of odd takes, and what both cost."""
    print(HEAD)
    total = Tally()
    for kind, silent, tally in benchmark(seed=chosen.seed, repeats=chosen.repeats, hands=chosen.hands):
        print(_row(kind, str(silent), tally))
        sys.stdout.flush()
        _join(total, tally)
    print(_row("all", "", total))
    for kind, tally in odd_hands(seed=chosen.seed):
        print(_row(kind, "", tally))
        sys.stdout.flush()
    print()
    for figure, pairs in total.found.items():
        truth, found = np.array(pairs).T
        off = found - truth if figure == "alpha" else found / truth - 1
        unit = "" if figure == "alpha" else " of its size"
        print(f"{figure:6} found: median error {np.median(off):+.3f}{unit}, root mean square {_rms(off):.3f}")
    for title, rows in (("slip in a long silence", slips), ("beat lost or gained", lost_beats)):
        print(f"\n{title:>22} {'takes':>5} {'notes':>7} {'wrong %':>7} {'slips %':>7} {'drift':>6} {'RMSE ms':>8}")
        for beats_off, tally in rows(seed=chosen.seed):
            print(_slip_row(beats_off, tally))
            sys.stdout.flush()
    print(f"\n{'twelve earlier takes':>22} {'players':>7} {'tend.':>6} {'habit':>6} {'false':>6}")
    for wander_percent in KNOWN_WANDERS:
        print(_known_row(wander_percent, after_takes(seed=chosen.seed, wander_percent=wander_percent)))
        sys.stdout.flush()
    print(f"\n{odd_takes(chosen.odd, seed=chosen.seed)}")
    if not chosen.no_cost:
        print(f"\n{'notes':>8} {'ms a thousand notes':>20} {'times fixed work':>16} {'peak MB':>8}")
        for line in cost(seed=chosen.seed):
            print(f"{line.notes:8d} {line.ms_per_thousand:20.1f} {line.of_fixed_work:16.2f} {line.peak_mb:8.1f}")
    print_over_takes(seed=chosen.seed, players=6)
    print_hearing(seed=chosen.seed, kit=None)


def climb_schools(learners: int, *, seed: int) -> None:
    """Print what came of each school's ladder for the same simulated learners."""
    print(f"{'school':26} {'clean %':>7} {'reached':>8} {'days':>5} {'worst stall':>11}")
    for name, found in schools(seed=seed, learners=learners):
        days = [one.days for one in found if one.days]
        middle = f"{np.median(days):5.0f}" if days else f"{'':5}"
        clean, stall = 100 * np.mean([one.share_clean for one in found]), np.median([one.worst_stall for one in found])
        print(f"{name:26} {clean:7.0f} {f'{len(days)}/{len(found)}':>8} {middle} {stall:8.0f} days")
        sys.stdout.flush()


def odd_takes(count: int, *, seed: int) -> str:
    """Return what became of odd takes; the case numbers of those that failed with what is no error of ours."""
    refused, failed = 0, []
    for number in range(count):
        try:
            refused += bool(case(number, seed=seed).refusal)
        except Exception as error:  # whatever it is, it is what we look for
            failed.append(f"{number} ({type(error).__name__})")
    read = count - refused - len(failed)
    return f"odd takes: {read} read, {refused} refused, {len(failed)} failed {', '.join(failed)}".rstrip()


def _known_row(wander_percent: float, tally: Tally) -> str:
    false = 100 * np.mean(tally.unbiased_verdicts)
    shares = f"{tally.share('tendency'):6.1f} {tally.share('habit'):6.1f} {false:6.1f}"
    return f"{f'wander {wander_percent:g} %':>22} {len(tally.covered['habit']):7d} {shares}"


def _slip_row(beats_off: float, tally: Tally) -> str:
    errors = np.array([found - truth for truth, found in tally.found["drift"]])
    shares = f"{100 * np.mean(tally.slips_right):7.1f} {tally.share('drift'):6.1f} {_rms(errors):8.1f}"
    wrong = 100 * tally.mislabelled / tally.notes
    return f"{beats_off:+22.1f} {tally.takes:5d} {tally.notes:7d} {wrong:7.3f} {shares}"


def _rms(errors: np.ndarray) -> float:
    return float(np.sqrt(np.mean(errors**2)))


def _row(kind: str, silent: str, tally: Tally) -> str:
    shares = "".join(
        f" {tally.share(figure):6.1f}" for figure in ("drift", "return", "tendency", "clock", "hand", "alpha")
    )
    verdicts = tally.unbiased_verdicts
    false = 100 * sum(verdicts) / len(verdicts) if verdicts else float("nan")
    wrong = 100 * tally.mislabelled / tally.notes
    counts = f"{kind:8} {silent:>6} {tally.takes:5d} {tally.notes:7d}"
    return f"{counts} {wrong:7.3f} {tally.rmse_ratio:6.3f}{shares} {false:6.1f}"


def _join(total: Tally, part: Tally) -> None:
    total.takes += part.takes
    total.notes += part.notes
    total.mislabelled += part.mislabelled
    total.drift_error_ms += part.drift_error_ms
    total.oracle_error_ms += part.oracle_error_ms
    total.unbiased_verdicts += part.unbiased_verdicts
    for figure, pairs in part.found.items():
        total.found.setdefault(figure, []).extend(pairs)
    for figure, held in part.covered.items():
        total.covered.setdefault(figure, []).extend(held)

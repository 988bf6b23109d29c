"""The part of the bench over takes: what reach, clean, change, rush maps and the band say, beside the truth."""

from __future__ import annotations

import sys

from giusto.simulation.over_takes_benchmark import bands, called_clean, changes, ladders, reaches, rush_maps


def print_over_takes(*, seed: int, players: int) -> None:
    """Print a row for each, of takes as they are read; so many players for each hand."""
    off, expected = f"{'bias':>6} {'RMS':>6} {'best':>6}", f"{'clock, lean':>11} {'held':>6}"
    print(f"\n{'reach: hand ms':>22} {'takes':>5} {'players':>7} {off} {'held':>6} {expected}  (octaves, %)")
    for hand_ms, takes, tally in reaches(seed=seed, players=players):
        off = f"{tally.bias:+6.2f} {tally.rms:6.2f} {tally.rms_at_best:6.2f}"
        expected = f"{tally.rms_expected:11.2f} {tally.covered_expected:6.1f}"
        print(f"{hand_ms:22g} {takes:5d} {len(tally.off):7d} {off} {tally.covered:6.1f} {expected}")
        sys.stdout.flush()
    print(f"\n{'clean: said':>22} {'truly':>6} {'takes':>5}")
    for said, truly, takes in called_clean(seed=seed, players=4 * players):
        print(f"{said:22.2f} {truly:6.2f} {takes:5d}")
        sys.stdout.flush()
    print(f"\n{'ladder: truly clean':>22} {'read to':>8} {'takes':>6} {'truth':>6} {'rungs':>6} {'truth':>6}")
    for one in ladders(seed=seed, players=2 * players):
        up, rungs = f"{one.takes:6.1f} {one.takes_by_truth:6.1f}", f"{one.rungs:6.2f} {one.rungs_by_truth:6.2f}"
        print(f"{100 * one.clean:20.0f} % {one.sd_ms:5.0f} ms {up} {rungs}")
        sys.stdout.flush()
    false, found = changes(seed=seed, players=10 * players)
    print(f"\nchange: no change called one {false:.1f} %, three day's spreads in eight weeks found {found:.1f} %")
    for name, shown in rush_maps(seed=seed, maps=4 * players):
        print(f"rush map, {name}: a sure place where nobody leans in {shown:.1f} % of maps of eight takes")
        sys.stdout.flush()
    print(f"\n{'band: rises':>22} {'slope':>5} {'right %':>7} {'clean %':>7}")
    for gain, slope, right, clean in bands(seed=seed, learners=2 * players):
        print(f"{gain:22.3f} {slope:5.1f} {right:7.1f} {clean:7.1f}")
        sys.stdout.flush()

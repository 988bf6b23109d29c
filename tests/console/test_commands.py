"""The command line: files in, results out, one clear line for what is wrong."""

import contextlib
import csv
import io
import json
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

import jsonschema
import numpy as np

from console.__main__ import main
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import plain, planned
from tests.giusto.drill.passage.scores import bar, musicxml
from tests.giusto.plan.test_days import routine as routine_file

ROOT = Path(__file__).parents[2]


class CommandTests(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.drill = self.write("drill.json", json.dumps(plain()))

    def write(self, name: str, text: str) -> str:
        path = self.folder / name
        path.write_text(text, encoding="utf-8", newline="")
        return str(path)

    def run_command(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(newline=""), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            try:
                status = main(arguments)
            except SystemExit as ended:
                status = int(ended.code or 0)
        return status, out.getvalue(), err.getvalue()

    def test_schedule(self) -> None:
        status, out, err = self.run_command("schedule", self.drill)
        rows = list(csv.reader(io.StringIO(out)))
        self.assertEqual((status, err), (0, ""))
        self.assertEqual(rows[0], ["time_s", "cycle", "position", "kind"])
        self.assertEqual(rows[1], ["0.000000000", "0", "1", "count"])
        self.assertEqual(rows[5], ["2.500000000", "1", "1", "click"])
        self.assertEqual(len(rows), 1 + 4 + 8 * 4 + 4)

    def test_notes_of_the_part(self) -> None:
        _, out, _ = self.run_command("schedule", self.drill, "--notes")
        rows = list(csv.reader(io.StringIO(out)))
        self.assertEqual(rows[0], ["time_s", "cycle", "position"])
        self.assertEqual(rows[2], ["2.812500000", "1", "1+1/2"])
        self.assertEqual(len(rows), 137)

    def test_simulate_then_analyse(self) -> None:
        truth = self.folder / "truth.json"
        arguments = ("simulate", self.drill, "--seed", "4", "--bias", "-1.5", "--truth", str(truth))
        status, out, _ = self.run_command(*arguments)
        self.assertEqual(status, 0)
        self.assertEqual(out, self.run_command(*arguments)[1])
        status, text, _ = self.run_command("analyse", self.drill, self.write("take.csv", out))
        reading = json.loads(text)
        self.assertEqual((status, reading["giusto"]), (0, "reading/1"))
        for silence, drift_ms in zip(reading["silences"], json.loads(truth.read_text())["drift_ms"], strict=True):
            low, high = silence["ci95_ms"]
            self.assertTrue(low - 6 < drift_ms < high + 6)
            self.assertIn(silence["outcome"], ("late", "edge"))

    def test_a_recording_from_simulate_is_heard_and_read(self) -> None:
        wav = str(self.folder / "take.wav")
        options = ("--wav", wav, "--sound", "wood", "--bleed", "-25", "--delay-ms", "40", "--ppm", "80")
        status, played, err = self.run_command("simulate", self.drill, "--seed", "7", "--bias", "-1.5", *options)
        self.assertEqual((status, err), (0, ""))
        status, heard, err = self.run_command("onsets", wav)
        self.assertEqual((status, err), (0, ""))
        rows = list(csv.DictReader(io.StringIO(heard)))
        self.assertEqual(set(rows[0]), {"time_s", "strength"})
        self.assertGreater(len(rows), 0.9 * len(played.splitlines()))
        status, out, err = self.run_command("analyse", self.drill, wav)
        self.assertEqual((status, err), (0, ""))
        found = json.loads(out)
        self.assertEqual((found["source"]["kind"], found["source"]["by"]), ("sound", "bleed"))
        self.assertAlmostEqual(found["source"]["clock_ppm"], 80, delta=5)
        csv_file = self.write("take.csv", played)
        direct = json.loads(self.run_command("analyse", self.drill, csv_file)[1])
        self.assertIsNone(direct["source"])
        for one, other in zip(found["silences"], direct["silences"], strict=True):
            self.assertAlmostEqual(one["drift_ms"], other["drift_ms"], delta=3)
        for arguments, said in (
            (("onsets", self.drill), "the recording can't be read, allowed are .wav, .flac"),
            (("onsets", str(self.folder / "none.wav")), "No such file"),
            (("analyse", self.drill, str(self.folder / "none.mid")), "No such file"),
            (("simulate", self.drill, "--seed", "1", "--wav", wav, "--sound", "glass"), 'sound is "glass"'),
        ):
            status, _, err = self.run_command(*arguments)
            self.assertEqual(status, 2)
            self.assertIn(said, err)

    def test_render(self) -> None:
        for ending, start in (("wav", b"RIFF"), ("flac", b"fLaC"), ("mid", b"MThd")):
            out = self.folder / f"click.{ending}"
            self.assertEqual(self.run_command("render", self.drill, str(out)), (0, "", ""))
            self.assertEqual(out.read_bytes()[:4], start)
        counted = self.folder / "counted.flac"
        self.assertEqual(self.run_command("render", self.drill, str(counted), "--count", "takadimi"), (0, "", ""))
        self.assertGreater(counted.stat().st_size, (self.folder / "click.flac").stat().st_size)

    def test_bad_input_is_one_line_and_status_2(self) -> None:
        bad_bpm, no_json = self.write("a.json", json.dumps(plain(bpm=5))), self.write("b.json", "{")
        unsorted = self.write("d.csv", "time_s\n2.0\n1.0\n")
        cases = (
            (("schedule", bad_bpm), "giusto schedule: tempo.bpm: is 5, allowed is at least 10"),
            (("schedule", no_json), "giusto schedule: not JSON"),
            (("simulate", self.drill, "--seed", "1", "--density", "2"), "density is 2.0, allowed is 0.05 to 1"),
            (("schedule", str(self.folder / "none.json")), "No such file or directory"),
            (("schedule", str(self.folder)), "Is a directory"),
            (("analyse", self.drill, unsorted), "onsets_s must ascend: 1.0 s after 2.0 s at line 3"),
            (("simulate", self.drill, "--seed", "x"), "invalid int value"),
            (("simulate", self.drill, "--seed", "1", "--bias", "99"), "bias_percent is 99.0, allowed is -20 to 20"),
            (("simulate", self.drill), "--seed"),
            (("nothing",), "invalid choice"),
            (("render", self.drill, "click.mp3"), 'the file ends in ".mp3", allowed are .wav, .flac and .mid'),
            (("render", self.drill, "click.wav", "--voice", "bell"), 'voice is "bell"'),
            (("render", self.drill, "click.mid", "--count", "numbers"), "a MIDI file has no voice that counts"),
            (("render", self.drill, "click.wav", "--count", "aloud"), "invalid choice: 'aloud'"),
            (("render", self.drill, "/nowhere/click.mid"), "No such file or directory"),
            (("render", self.drill, "/nowhere/click.wav"), "/nowhere"),
            (("schedule", "two\nlines.json"), "two lines.json: No such file"),
            (("bench", "--repeats", "0"), "allowed is at least 1"),
            (("bench", "--seed", "-1"), "no whole number"),
        )
        for arguments, message in cases:
            with self.subTest(arguments=arguments):
                status, out, err = self.run_command(*arguments)
                self.assertEqual((status, out), (2, ""))
                self.assertIn(message, err)
                self.assertEqual(err.count("\n"), 1)
                self.assertNotIn("Traceback", err)

    def test_the_command_itself(self) -> None:
        done = subprocess.run([ROOT / "giusto", "schedule", self.drill], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertTrue(done.stdout.startswith("time_s,cycle,position,kind"))

    def test_a_closed_pipe_is_no_error(self) -> None:
        command = f"'{sys.executable}' -m console schedule '{self.drill}' | head -n 1"
        done = subprocess.run(["sh", "-c", command], capture_output=True, text=True, check=False)
        self.assertEqual((done.stdout.strip(), done.stderr), ("time_s,cycle,position,kind", ""))

    def test_a_full_disk_is_one_line(self) -> None:
        """A limit of the shell stands in for it: a file of 20 blocks, or the device that is always full."""
        wav = self.folder / "click.wav"
        for limit, command, where in (
            ("ulimit -f 20; ", f"render '{self.drill}' '{wav}'", str(wav)),
            ("", f"schedule '{self.drill}' > /dev/full", "standard output: No space left"),
        ):
            with self.subTest(command):
                whole = f"{limit}'{sys.executable}' -m console {command}"
                done = subprocess.run(["sh", "-c", whole], capture_output=True, text=True, check=False)
                self.assertEqual((done.returncode, done.stderr.count("\n")), (2, 1), done.stderr)
                self.assertIn(where, done.stderr)
        self.assertFalse(wav.exists())

    def test_next_and_buildup(self) -> None:
        rungs = {"what": "tempo", "from": 60, "to": 70, "by": 4}
        rule = {"kind": "streak", "clean": 2}
        ladder = {"giusto": "ladder/1", "drill": plain(), "vary": rungs, "rule": rule}
        file = self.write("ladder.json", json.dumps(ladder))
        made = self.write("made.csv", "at,rung,clean,minutes\n2026-11-23T18:00:00+01:00,1,1,2\n")
        status, out, _ = self.run_command("next", file, made, "--at", "2026-11-23T18:05:00+01:00", "--off")
        found = json.loads(out)
        self.assertEqual((status, found["rung"], found["needs"]), (0, 1, {"clean": 3, "so_far": 1}))
        status, _, err = self.run_command("next", file, made, "--at", "tomorrow")
        self.assertEqual((status, err.count("\n")), (2, 1))
        self.assertIn("--at is", err)
        status, out, _ = self.run_command("buildup", self.drill)
        self.assertEqual([json.loads(line)["giusto"] for line in out.splitlines()], ["drill/1"] * 2)

    def test_advise(self) -> None:
        notes = self.run_command("simulate", self.drill, "--seed", "4", "--bias", "3")[1]
        status, text, err = self.run_command("advise", self.drill, self.write("take.csv", notes))
        advice = json.loads(text)
        self.assertEqual((status, err, advice["giusto"]), (0, "", "advice/2"))
        self.assertEqual(advice["verdict"], {"code": "rushed", "silences": 4, "of": 4})
        self.assertEqual([choice["way"] for choice in advice["next"]], ["easier", "again", "harder"])
        again = self.write("again.json", json.dumps(advice["next"][0]["drill"]))
        self.assertEqual(self.run_command("schedule", again)[0], 0)

    def test_ten_takes_before_tell_how_far_takes_differ(self) -> None:
        notes = [self.run_command("simulate", self.drill, "--seed", str(n), "--bias", "-2")[1] for n in range(11)]
        takes = [self.write(f"take{n}.csv", text) for n, text in enumerate(notes)]
        for before, so_far in ((takes[:9], True), (takes[:10], False)):
            advice = json.loads(self.run_command("advise", self.drill, takes[10], "--before", *before)[1])
            lean = next(found for found in advice["findings"] if found["code"] == "wide" and found["takes"] == 1)
            self.assertIs(lean["so_far"], so_far)

    def test_passage(self) -> None:
        score = self.folder / "score.musicxml"
        bars = (bar("grace q q h", number=1, metre="4/4", lower="h h"), bar("w", number=2, lower="w"))
        score.write_bytes(musicxml(*bars))
        asked = ("passage", str(score), "--bars", "1", "--hand", "upper", "--key", "+3")
        status, text, err = self.run_command(*asked)
        drill = json.loads(text)
        self.assertEqual((status, drill["part"]["play"]), (0, ["1", "2", "3"]))
        self.assertEqual(drill["name"], "Lanterns for Odo, bar 1, upper hand, +3 semitones")
        self.assertIn("1 grace note left out", err)
        self.assertIn("60 quarters a minute", err)
        self.assertEqual(self.run_command("schedule", self.write("made.json", text))[0], 0)
        for option, value, said in (
            ("--bars", "7", "bar 7 is not there"),
            ("--part", "x", "the part is"),
            ("--key", "c", "no number of"),
        ):
            status, text, err = self.run_command("passage", str(score), option, value)
            self.assertEqual((status, text, err.count("\n")), (2, "", 1))
            self.assertIn(said, err)

    def test_reach_of_returns_and_of_outcomes(self) -> None:
        rows = "".join(f"t{n // 4},{2 ** (1 + n % 4)},{0.01 * (-1) ** n},0.01\n" for n in range(40))
        found = json.loads(
            self.run_command("reach", self.write("returns.csv", f"take,beats,return_beats,sd_beats\n{rows}"))[1]
        )
        self.assertEqual((found["giusto"], found["silences"], found["takes"]), ("reach/2", 40, 10))
        old = json.loads(self.run_command("reach", self.write("held.csv", "beats,held\n8,1\n16,0\n"))[1])
        self.assertEqual((old["giusto"], old["n"]), ("reach/1", 2))
        status, text, err = self.run_command("reach", self.write("wrong.csv", "take,beats\n"))
        self.assertEqual((status, text, err.count("\n")), (2, "", 1))

    def test_change(self) -> None:
        rows = "".join(f"2026-10-{day:02}T18:00:00+02:00,{8 - day / 10},0.2\n" for day in range(1, 31))
        found = json.loads(self.run_command("change", self.write("figures.csv", f"at,value,sd\n{rows}"))[1])
        self.assertEqual((found["giusto"], found["sure"], found["days"]), ("change/1", True, 30))
        self.assertAlmostEqual(found["change"], -2.9, delta=0.2)
        few = json.loads(self.run_command("change", self.write("few.csv", "at,value,sd\n"))[1])
        self.assertEqual((few["from"], few["sure"], few["reason"]), (None, False, "few-takes"))

    def test_rush(self) -> None:
        """Into the third beat of each bar 30 ms early, eight takes: that place is sure, and nothing is of no take."""
        schema = json.loads((Path(__file__).parents[2] / "docs/schema/rush-1.json").read_text(encoding="utf-8"))
        drill = self.write("throughout.json", json.dumps(plain(silence=None, cycles=8, grid=1)))
        takes = []
        for seed in range(8):
            plan = planned(silence=None, cycles=8, grid=1)
            onsets = simulate(plan, SimulatedPlayer(clock_percent=0.8, hand_ms=5.0), seed=seed).onsets_s
            asked = plan.seconds(plan.notes.tick)
            beat = plan.notes.offset // plan.ticks_per_beat
            third = np.isin(np.argmin(np.abs(onsets[:, None] - asked), axis=1), np.flatnonzero(beat == 2))
            text = "time_s\n" + "".join(f"{one:.6f}\n" for one in np.sort(onsets - 0.03 * third))
            takes.append(self.write(f"rush{seed}.csv", text))
        found = json.loads(self.run_command("rush", drill, *takes)[1])
        jsonschema.validate(found, schema)
        sure = {(one["cycle"], one["position"]): one["gain_ms"] for one in found["places"] if one["sure"]}
        self.assertLess(sure[1, "3"], -20)
        self.assertEqual(set(sure) - {(1, "3")}, {(1, "4")})  # and the next one late by as much
        nothing = json.loads(self.run_command("rush", drill, self.write("none.csv", "time_s\n"))[1])
        self.assertEqual((nothing["places"], nothing["reason"]), ([], "few-takes"))

    def test_plan(self) -> None:
        routine = self.write("routine.json", routine_file())
        out = self.folder / "out.ics"
        asked = ("plan", routine, "--from", "2026-11-30", "--days", "7", "--minutes", "45", "--ics", str(out))
        status, text, err = self.run_command(*asked)
        self.assertEqual((status, err), (0, ""))
        plan = json.loads(text)
        self.assertEqual((plan["giusto"], plan["zone"], len(plan["slots"])), ("plan/1", "Europe/Vienna", 9))
        self.assertTrue(out.read_bytes().startswith(b"BEGIN:VCALENDAR"))
        for wrong, said in (
            (("plan", routine, "--from", "2026-02-30", "--days", "7"), "is no date"),
            (("plan", routine, "--from", "2026-11-30", "--days", "0"), "is no whole number from 1"),
            (("plan", routine, "--from", "2026-11-30", "--days", "7", "--minutes", "9"), "allowed is at least 40"),
            (("plan", self.drill, "--from", "2026-11-30", "--days", "7"), "giusto"),
        ):
            status, text, err = self.run_command(*wrong)
            self.assertEqual((status, text), (2, ""))
            self.assertIn(said, err)
            self.assertEqual(err.count("\n"), 1)

    def test_advise_knows_the_takes_before(self) -> None:
        """Held twice in a row is a step harder; held once is a try."""
        steady = ("--clock", "0.3", "--hand", "2")
        for seed in ("4", "5"):
            self.write(f"{seed}.csv", self.run_command("simulate", self.drill, "--seed", seed, *steady)[1])
        take, before = str(self.folder / "5.csv"), str(self.folder / "4.csv")
        ways = []
        for more in ((), ("--before", before)):
            advice = json.loads(self.run_command("advise", self.drill, take, *more)[1])
            self.assertEqual(advice["verdict"]["code"], "held")
            ways.append(advice["next"][0]["way"])
        self.assertEqual(ways, ["again", "harder"])

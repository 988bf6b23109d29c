"""A database of each landed version, brought over: every take, ladder, plan and figure stays what it was."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any
from unittest import TestCase

import psycopg
from django.db import connections

from launch.cluster import server_programs
from tests.reference.make_dump import DUMPS

ROOT = Path(__file__).parents[2]
NAME = "giusto_upgraded"
# What later versions tell otherwise of the same takes, on purpose: version made, player, part, what it says now.
ANEW = json.loads((DUMPS / "told-anew.json").read_text(encoding="utf-8"))


def upgraded(dump: Path, zone: str, at: str) -> dict[str, Any]:
    """Return what this version says of an earlier one's database once it is brought over, as ``start`` does it."""
    told = connections["default"].settings_dict
    where = {"host": told["HOST"], "port": told["PORT"], "user": told["USER"], "password": told["PASSWORD"]}
    with psycopg.connect(**where, dbname="postgres", autocommit=True) as server:
        server.execute(f"drop database if exists {NAME} with (force)")
        server.execute(f"create database {NAME}")
    environment = {
        **os.environ,
        "PGPASSWORD": where["password"],
        "GIUSTO_DB_NAME": NAME,
        "GIUSTO_DB_PORT": str(where["port"]),
        "TZ": zone,
        "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}",
    }
    options = ["-h", where["host"], "-p", str(where["port"]), "-U", where["user"], "-d", NAME, "--no-owner"]
    subprocess.run([server_programs() / "pg_restore", *options, str(dump)], env=environment, check=True)
    asked = [sys.executable, "-m", "tests.reference.kept", at]
    done = subprocess.run(asked, env=environment, cwd=ROOT, check=True, capture_output=True)
    found: dict[str, Any] = json.loads(done.stdout)
    return found


class UpgradeTests(TestCase):
    maxDiff = 2000

    def test_every_version(self) -> None:
        dumps = sorted(DUMPS.glob("*.dump"))
        self.assertTrue(dumps)
        for dump in dumps:
            before = json.loads(dump.with_suffix(".json").read_text(encoding="utf-8"))
            found = upgraded(dump, before["zone"], before["at"])
            for player in ("demo", "local"):
                for part, made in before[player].items():
                    was = made | told if (told := ANEW[before["version"]][player].get(part)) else made
                    with self.subTest(version=before["version"], player=player, part=part):
                        self.assertTrue(was)
                        self.assertEqual(found[player][part], was)

"""Many hosts, small: two web hosts, a first database and one that follows it, killed under players.

Skipped, with a word, where this machine lets nobody make network namespaces; all of it is ``./giusto drill hosts``.
"""

from __future__ import annotations

from unittest import TestCase, skipUnless
from unittest.mock import patch

from launch.hosts import drill
from launch.hosts.drill import KillCost, installation, table
from launch.hosts.net import can_make

SECONDS = 16.0


class HostsTests(TestCase):
    @skipUnless(can_make(), "no network namespaces can be made here")
    def test_what_was_acknowledged_outlives_a_web_host_and_the_first_database(self) -> None:
        with (
            patch.object(drill, "KILLED_AT_S", 5.0),
            installation(replicas=1, players=6) as all_of_it,
        ):
            web = all_of_it.under_players("a web host", all_of_it.web_host, seconds=SECONDS)
            first = all_of_it.under_players("the first database", all_of_it.database, seconds=SECONDS)
        for row in (web, first):
            with self.subTest(row.killed):
                self.assertGreater(row.acknowledged, 50)
                self.assertEqual((row.lost, row.gave_up), (0, 0))
        self.assertLess(web.refused, 0.1 * web.requests)  # the other one answers


class TableTests(TestCase):
    def test_a_row_a_kill(self) -> None:
        text = table([KillCost("a web host", 1200, 3, 0.51, 6.04, 1100, 0, 0)])
        self.assertIn("| a web host | 1,200 | 3 | 0.5 s | 6.0 s | 1,100 | 0 |", text)

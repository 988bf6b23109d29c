"""Where a process is waited for."""

import signal
import subprocess
import sys
import time
from unittest import TestCase

from launch.place import end_process


class EndProcessTests(TestCase):
    def test_a_zombie_has_ended(self) -> None:
        """A child that nobody has asked for its end stays in the table; waiting for it took 30 s once."""
        child = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
        self.addCleanup(child.wait)
        began = time.monotonic()
        end_process(child.pid, signal.SIGTERM)
        self.assertLess(time.monotonic() - began, 15)
        self.assertIsNotNone(child.poll())

"""Tests, mirroring ``src``. In CI hypothesis tries the same examples each time; at a desk, new ones.

No example has a deadline: on a shared machine any of them may be slow once.
"""

import os

from hypothesis import settings

settings.register_profile("desk", deadline=None)
settings.register_profile("ci", deadline=None, derandomize=True)
settings.load_profile("ci" if os.environ.get("CI") else "desk")

"""Tests, mirroring ``src``. In CI hypothesis tries the same examples each time; at a desk, new ones."""

import os

from hypothesis import settings

settings.register_profile("ci", derandomize=True)
if os.environ.get("CI"):
    settings.load_profile("ci")

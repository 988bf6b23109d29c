"""Tests, mirroring ``src``. Hypothesis tries new examples each time, at a desk and in CI.

No example has a deadline: on a shared machine any of them may be slow once. What fails is printed whole, to be tried
again.
"""

from hypothesis import settings

settings.register_profile("ours", deadline=None, print_blob=True)
settings.load_profile("ours")

"""Settings of ``./giusto test``: a database that is thrown away, static files as they lie."""

import os
import tempfile
from pathlib import Path

from studio.settings.base import *  # noqa: F403 - settings are one namespace

DEBUG = False
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = False
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
MEDIA_ROOT = Path(os.environ.get("GIUSTO_MEDIA_ROOT", tempfile.gettempdir()))  # ./giusto test throws it away
TWIN_S = 0.0  # tests send the same form again at once, and mean it
TEST_RUNNER = "tests.runner.Runner"

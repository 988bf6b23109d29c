"""Settings of the tests of ``./giusto studio``: those of the studio, on what a test throws away."""

from studio.settings.studio import *  # noqa: F403 - settings are one namespace
from studio.settings.test import (  # noqa: F401
    MEDIA_ROOT,
    PASSWORD_HASHERS,
    STORAGES,
    TEST_RUNNER,
    TWIN_S,
    WHITENOISE_AUTOREFRESH,
    WHITENOISE_USE_FINDERS,
)

STATIC_ROOT = None  # type: ignore[assignment]  # nothing is collected
ALLOWED_HOSTS = ["giusto.local", "127.0.0.1", "localhost", "testserver"]
LOGGING = {"version": 1, "disable_existing_loggers": False}
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}

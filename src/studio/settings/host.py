"""Settings of ``./giusto host``: a web host or a worker of a larger installation; its whole world from outside.

``launch/host.py`` refuses what is missing before these are read. Names of files stand in for secrets: ``..._FILE``.
"""

import os
from pathlib import Path

from studio.secret import secret
from studio.settings.studio import *  # noqa: F403 - settings are one namespace
from studio.settings.studio import DATABASES, INSTALLED_APPS, MIDDLEWARE, STORAGES

STUDIO_ADDRESS = os.environ.get("GIUSTO_ADDRESS", "")
SECRET_KEY_FALLBACKS = secret("GIUSTO_SECRET_KEYS_BEFORE").split()
RUN = Path(os.environ["GIUSTO_RUN"])
STATIC_ROOT = Path(os.environ["GIUSTO_STATIC"])

# The database is elsewhere; a pooler may stand before it, but never before the locks (see ``studio/locks.py``).
IS_POOLED = os.environ.get("GIUSTO_DB_POOLER") == "transaction"
DATABASES["default"] |= {"HOST": os.environ["GIUSTO_DB_HOST"], "DISABLE_SERVER_SIDE_CURSORS": IS_POOLED}
if IS_POOLED:  # one pool is enough
    DATABASES["default"]["OPTIONS"] = {}
    DATABASES["direct"] = DATABASES["default"] | {
        "NAME": os.environ.get("GIUSTO_DB_DIRECT_NAME") or DATABASES["default"]["NAME"],
        "HOST": os.environ["GIUSTO_DB_DIRECT_HOST"],
        "PORT": os.environ["GIUSTO_DB_DIRECT_PORT"],
        "TEST": {"MIRROR": "default"},
    }
LOCKS = "direct" if IS_POOLED else "default"

# Sounds: a folder that all hosts share, or an object store.
_where, _, _what = os.environ["GIUSTO_STORAGE"].partition(":")
if _where == "s3":
    STORAGES["default"] = {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": _what,
            "endpoint_url": os.environ.get("GIUSTO_S3_ENDPOINT") or None,
            "file_overwrite": False,
            "default_acl": None,
            "querystring_auth": True,
        },
    }
else:
    MEDIA_ROOT = Path(_what)

SOUND_IN_STORAGE = True

INSTALLED_APPS = [*INSTALLED_APPS, "studio.watched"]
MIDDLEWARE = ["studio.watched.middleware.FiguresMiddleware", *MIDDLEWARE]
ROOT_URLCONF = "studio.urls_host"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"()": "studio.watched.lines.JsonLines"}},
    "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["stderr"], "level": "INFO"},
}

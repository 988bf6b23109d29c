"""Settings of ``./giusto start``: one machine, loopback, hashed static files."""

from studio.settings.base import *  # noqa: F403 - settings are one namespace
from studio.settings.base import OWN, STORAGES

DEBUG = False
STATIC_ROOT = OWN / "static"
STORAGES = {
    "default": STORAGES["default"],
    "staticfiles": {"BACKEND": "studio.storage.HashedStorage"},
}
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "plain"}},
    "root": {"handlers": ["stderr"], "level": "INFO"},
}

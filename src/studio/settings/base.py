"""What all settings share."""

import os
from pathlib import Path
from typing import Any

from csp.constants import NONE, SELF

from studio.machine import machine_zone
from studio.secret import secret

SITE = Path(__file__).resolve().parents[1]
ROOT = SITE.parents[1]
OWN = Path(os.environ.get("GIUSTO_OWN") or ROOT / ".giusto")  # what a checkout makes for itself

SECRET_KEY = secret("GIUSTO_SECRET_KEY")
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
ROOT_URLCONF = "studio.urls"
WSGI_APPLICATION = "studio.wsgi.application"
AUTH_USER_MODEL = "accounts.Player"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.postgres",
    "django.contrib.staticfiles",
    "django_htmx",
    "csp",
    "django_tasks",
    "django_tasks_db",
    "studio.accounts",
    "studio.joining",
    "studio.installed",
    "studio.sheet",
    "studio.scores",
    "studio.drills",
    "studio.exercises",
    "studio.hearing",
    "studio.takes",
    "studio.recordings",
    "studio.ladders",
    "studio.pieces",
    "studio.plans",
    "studio.progress",
    "studio.reach",
    "studio.readings",
    "studio.log",
    "studio.work",
    "studio.method",
    "studio.archive",
    "studio.teaching",
    "studio.demo",
]

MANY = False  # players with accounts; else the one of this machine
STUDIO_ADDRESS = ""  # of a studio, as it is told to whoever comes
TWIN_S = 2.0  # ours: so long after its answer a form that comes again is the same


def isolated(headers: Any, path: str, url: str) -> None:
    """Let a worker's script be used by an isolated page (``studio.guard``)."""
    headers["Cross-Origin-Embedder-Policy"] = "require-corp"


def middleware(*signing_in: str) -> list[str]:
    """Return the middleware of the site, with what says whose request it is in its place."""
    return [
        "django.middleware.security.SecurityMiddleware",
        "whitenoise.middleware.WhiteNoiseMiddleware",
        "django.middleware.gzip.GZipMiddleware",
        "studio.guard.GuardMiddleware",
        "studio.limits.LimitsMiddleware",
        "csp.middleware.CSPMiddleware",
        "django.contrib.sessions.middleware.SessionMiddleware",
        "django.middleware.common.CommonMiddleware",
        "django.middleware.csrf.CsrfViewMiddleware",
        "studio.guard.TextMiddleware",
        "django.contrib.auth.middleware.AuthenticationMiddleware",
        *signing_in,
        "studio.accounts.middleware.OwnWordsMiddleware",
        "studio.accounts.once.OnceMiddleware",
        "django.contrib.messages.middleware.MessageMiddleware",
        "django.middleware.clickjacking.XFrameOptionsMiddleware",
        "django_htmx.middleware.HtmxMiddleware",
    ]


MIDDLEWARE = middleware("studio.accounts.middleware.LocalPlayerMiddleware")

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [SITE / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "studio.addresses.addresses",
                "studio.parts.down",
                "studio.places.places",
                "studio.teaching.middleware.looking_of",
            ],
            "libraries": {"terms": "studio.terms"},
        },
    },
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("GIUSTO_DB_NAME", "giusto"),
        "USER": os.environ.get("GIUSTO_DB_USER", "giusto"),
        "PASSWORD": secret("GIUSTO_DB_PASSWORD"),
        "HOST": "127.0.0.1",
        "PORT": os.environ.get("GIUSTO_DB_PORT", ""),
        "CONN_HEALTH_CHECKS": True,  # the pool checks a connection before it hands it out
        "OPTIONS": {"pool": {"min_size": 1, "max_size": 8, "timeout": 10}},
    },
}

SOUND_A_PLAYER: int | None = None  # bytes of kept sound that each of many players may have
RECORDINGS_A_PLAYER: int | None = None  # of them that may wait to be heard at once
SOUND_IN_STORAGE = False  # the sound of a take that is being played; else in the database
LOCKS = "default"  # the connection that holds the database's own locks

STATIC_URL = "/static/"
WHITENOISE_ALLOW_ALL_ORIGINS = False
WHITENOISE_ADD_HEADERS_FUNCTION = isolated
STATICFILES_DIRS = [SITE / "static"]

# Sounds that a player asked to keep, and recordings that wait to be heard: on this machine alone.
MEDIA_ROOT = OWN / "recordings"
STORAGES = {
    "default": {
        "BACKEND": "django.core.files.storage.FileSystemStorage",
        "OPTIONS": {"file_permissions_mode": 0o600, "directory_permissions_mode": 0o700},
    },
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}

# Where the parts of a start tell each other things; none where this is not one of them.
RUN = Path(os.environ["GIUSTO_RUN"]) if "GIUSTO_RUN" in os.environ else None

# Long work waits in the database, for ``./giusto manage work``, which ``./giusto start`` runs.
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": ["now", "default", "long"]}}

LANGUAGE_CODE = "en-gb"
USE_I18N = False  # one language; numbers in pictures are written as they are, thousands of them a page
TIME_ZONE = machine_zone()
USE_TZ = True

# Nothing is fetched from anywhere else, and no script or style stands in a page.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF],
        "connect-src": [SELF],
        "media-src": [SELF],
        "worker-src": [SELF],
        "manifest-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    },
}
SECURE_REFERRER_POLICY = "same-origin"
SESSION_COOKIE_HTTPONLY = True
CSRF_FAILURE_VIEW = "studio.refusals.csrf_failure"
DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
DATA_UPLOAD_MAX_NUMBER_FILES = 1000  # as many as one import may have
MAX_BODY_BYTES = 64_000_000  # files included
MAX_RECORDING_BYTES = 4_200_000_000  # as much as a WAV file can hold

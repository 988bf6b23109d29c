"""Settings of ``./giusto studio``: players with accounts, behind Caddy's TLS, on the local net.

Nobody is signed in by being on this machine: the middleware that does that is not here (see ``accounts/checks.py``).
"""

import os

from studio.settings.start import *  # noqa: F403 - settings are one namespace
from studio.settings.start import INSTALLED_APPS, middleware

MANY = True
SOUND_A_PLAYER = int(os.environ.get("GIUSTO_SOUND_A_PLAYER", "4_000_000_000"))  # ours: half a year of it, each day
RECORDINGS_A_PLAYER = 20
STUDIO_ADDRESS = os.environ.get("GIUSTO_ADDRESS", "")  # as it is told to whoever comes
ROOT_URLCONF = "studio.urls_many"
ALLOWED_HOSTS = [name for name in os.environ.get("GIUSTO_HOSTS", "").split(",") if name]
INSTALLED_APPS = [*INSTALLED_APPS, "allauth", "allauth.account", "allauth.mfa", "allauth.usersessions"]
MIDDLEWARE = middleware(
    "allauth.account.middleware.AccountMiddleware",
    "studio.joining.middleware.SeenMiddleware",
    "studio.joining.middleware.SignedInMiddleware",
    "studio.teaching.middleware.LookMiddleware",
)

# The proxy stands on this machine and talks through a socket: what it says of a request is so.
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
ALLAUTH_TRUSTED_CLIENT_IP_HEADER = "X-Real-IP"
SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "__Host-giusto", "__Host-giusto-csrf"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
SESSION_COOKIE_AGE = 30 * 24 * 3600

# Limits on guessing are counted by all processes together.
CACHES = {"default": {"BACKEND": "django.core.cache.backends.db.DatabaseCache", "LOCATION": "site_cache"}}

AUTHENTICATION_BACKENDS = ["allauth.account.auth_backends.AuthenticationBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("UserAttributeSimilarityValidator", "MinimumLengthValidator", "CommonPasswordValidator")
]
LOGIN_URL, LOGIN_REDIRECT_URL, LOGOUT_REDIRECT_URL = "account_login", "home", "account_login"
ACCOUNT_ADAPTER = "studio.joining.adapter.InvitedAdapter"
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_SIGNUP_FIELDS = ["username*", "password1*", "password2*"]
ACCOUNT_FORMS = {"login": "studio.joining.forms.SignInForm", "signup": "studio.joining.forms.SignupForm"}
ACCOUNT_EMAIL_VERIFICATION = "none"  # there is no e-mail: codes of a teacher or the owner stand in for it
ACCOUNT_SESSION_REMEMBER = True
ACCOUNT_LOGOUT_ON_PASSWORD_CHANGE = False
ACCOUNT_REAUTHENTICATION_REQUIRED = True
ACCOUNT_RATE_LIMITS = {"login_failed": "10/m/ip,5/5m/key", "login": "30/m/ip", "signup": "20/m/ip"}
MFA_ADAPTER = "studio.joining.adapter.KeyAdapter"
MFA_SUPPORTED_TYPES = ["totp", "webauthn", "recovery_codes"]
MFA_PASSKEY_LOGIN_ENABLED = True
MFA_TOTP_ISSUER = "Giusto"
USERSESSIONS_TRACK_ACTIVITY = True
EMAIL_BACKEND = "django.core.mail.backends.dummy.EmailBackend"

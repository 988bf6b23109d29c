"""Players of a drill, signed in: run on a web host by its own environment, prints a cookie a line."""

from __future__ import annotations

import os
import sys
import time


def main() -> None:
    """Make so many, and print their cookies."""
    os.environ["DJANGO_SETTINGS_MODULE"] = "studio.settings.host"
    import django

    django.setup()
    from django.conf import settings
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
    from django.contrib.sessions.backends.db import SessionStore

    from studio.accounts.models import Player

    for number in range(int(sys.argv[1])):
        player = Player.objects.create(username=f"player-{os.getpid()}-{number}")
        player.set_unusable_password()
        player.save()
        session = SessionStore()
        session[SESSION_KEY] = str(player.pk)
        session[BACKEND_SESSION_KEY] = settings.AUTHENTICATION_BACKENDS[0]
        session[HASH_SESSION_KEY] = player.get_session_auth_hash()
        session["seen"] = time.time()
        session.create()
        print(f"{settings.SESSION_COOKIE_NAME}={session.session_key}")


if __name__ == "__main__":
    main()

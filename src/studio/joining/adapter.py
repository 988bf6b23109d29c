"""What allauth asks of this site."""

from __future__ import annotations

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.mfa.adapter import DefaultMFAAdapter
from allauth.mfa.models import Authenticator
from django.contrib import messages
from django.http import HttpRequest
from django.urls import reverse
from django.utils import timezone

from studio.accounts.models import DEMO, INVENTED, LOCAL
from studio.joining.models import INVITED, LESSON

TAKEN = {DEMO, LOCAL}


class InvitedAdapter(DefaultAccountAdapter):
    """Accounts for whoever was given a code, and names that nobody else has."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Whether a code was used at the door just now."""
        return INVITED in request.session

    def clean_username(self, username: str, shallow: bool = False) -> str:
        """Refuse the names of the two players that are no accounts, and of those that are invented."""
        if username.lower() in TAKEN or username.lower().startswith(INVENTED):
            raise self.validation_error("username_blacklisted")
        return str(super().clean_username(username, shallow=shallow))

    def get_signup_redirect_url(self, request: HttpRequest) -> str:
        """Lead a new player on to what their teacher may see; the code was the teacher's."""
        request.session[LESSON] = request.session.pop(INVITED, None)
        return reverse("teaching:consent")

    def add_message(self, request: HttpRequest, level: int, *args: Any, **kwargs: Any) -> None:
        """Say nothing of a sign-in: the page that opens says enough."""

    def post_login(self, request: HttpRequest, user: Any, **kwargs: Any) -> Any:
        """Offer a passkey at the second visit, once, where there is none."""
        is_second = not kwargs.get("signup") and user.passkey_offered_at is None
        if is_second and not Authenticator.objects.filter(user=user, type=Authenticator.Type.WEBAUTHN).exists():
            user.passkey_offered_at = timezone.now()
            user.save(update_fields=["passkey_offered_at"])
            messages.info(request, "Next time without typing? Make a passkey under your name, Signing in.")
        return super().post_login(request, user, **kwargs)

    def send_mail(self, *args: Any, **kwargs: Any) -> None:
        """Send nothing: there is no e-mail here."""


class KeyAdapter(DefaultMFAAdapter):
    """Second steps and passkeys."""

    def send_notification_mail(self, *args: Any, **kwargs: Any) -> None:
        """Send nothing: there is no e-mail here; the page of sessions shows what is there."""

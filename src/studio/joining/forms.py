"""Forms at the door: a code, a new account, a new password."""

from __future__ import annotations

from typing import Any

from allauth.account.forms import LoginForm as AllauthLoginForm
from allauth.account.forms import SignupForm as AllauthSignupForm
from django import forms
from django.contrib.auth.forms import SetPasswordForm
from django.http import HttpRequest

from studio.joining.models import LENGTH

NAME = "Name to sign in with"


class CodeForm(forms.Form):
    """The letters that somebody was shown."""

    code = forms.CharField(
        max_length=4 * LENGTH,
        label="The code",
        widget=forms.TextInput(attrs={"autocomplete": "off", "autocapitalize": "characters", "spellcheck": "false"}),
    )


class SignInForm(AllauthLoginForm):
    """The name that one signs in with, and a password."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["login"].label = NAME


class SignupForm(AllauthSignupForm):
    """A new account: the name that one is called by, beside what one signs in with."""

    display_name = forms.CharField(max_length=80, label="What you are called")
    field_order = ["display_name", "username", "password1", "password2"]

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, label in (("username", NAME), ("password2", "The password once more")):
            self.fields[name].label = label

    def save(self, request: HttpRequest) -> Any:
        """Make the account."""
        user = super().save(request)
        user.display_name = self.cleaned_data["display_name"]
        user.save(update_fields=["display_name"])
        return user


class NewPasswordForm(SetPasswordForm):
    """A new password, for whom a code has let in again."""

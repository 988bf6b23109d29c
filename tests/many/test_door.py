"""The door of a studio: codes that are used once, accounts, limits on guessing, sessions, second steps, leaving."""

from __future__ import annotations

import base64
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from cryptography.hazmat.primitives.hashes import SHA1
from cryptography.hazmat.primitives.twofactor.totp import TOTP
from django.core.cache import cache
from django.core.management import call_command
from django.db import connection
from django.test import Client, TestCase
from django.urls import reverse
from django.utils import timezone

from studio.accounts.models import Player, local_player
from studio.joining.models import AuditLine, Code, make_code
from studio.recordings.sweeping import sweep
from studio.takes.models import Take
from tests.committed import CommittedTestCase
from tests.many.people import PASSWORD, client_of, person
from tests.studio.playing import play

ADDRESS = {"X-Real-IP": "192.0.2.7"}
WORDS = {"username": "mira", "password1": PASSWORD, "password2": PASSWORD, "display_name": "Mira"}


def sign_in(client: Client, name: str, password: str = PASSWORD) -> int:
    """Type a name and a password at the door."""
    return client.post(reverse("account_login"), {"login": name, "password": password}).status_code


class DoorTestCase(TestCase):
    def setUp(self) -> None:
        cache.clear()
        self.addCleanup(cache.clear)
        self.owner = person("owner", Player.Role.OWNER)
        self.teacher = person("teacher", Player.Role.TEACHER)
        self.client = client_of(None, raises=True)


class CodeTests(DoorTestCase):
    def test_from_a_code_to_an_account_and_to_what_the_teacher_may_see(self) -> None:
        code = make_code(self.teacher, Code.Kind.ACCOUNT)
        self.assertContains(self.client.get(reverse("account_signup")), "A code first")
        answer = self.client.post(reverse("joining:join"), {"code": code.lower().replace("-", " ")})
        self.assertRedirects(answer, reverse("account_signup"))
        answer = self.client.post(reverse("account_signup"), WORDS)
        self.assertRedirects(answer, reverse("teaching:consent"), fetch_redirect_response=False)
        mira = Player.objects.get(username="mira")
        self.assertEqual((mira.display_name, mira.role, mira.teaches), ("Mira", "player", False))
        self.assertContains(self.client.get(answer.headers["Location"]), "What may Teacher see?")

    def test_a_code_is_used_once_and_lives_half_an_hour(self) -> None:
        code = make_code(self.teacher, Code.Kind.ACCOUNT)
        join = reverse("joining:join")
        self.assertEqual(self.client.post(join, {"code": code}).status_code, 302)
        self.assertContains(client_of(None).post(join, {"code": code}), "no code that can be used", status_code=422)
        late = make_code(self.teacher, Code.Kind.ACCOUNT)
        Code.objects.filter(used_at=None).update(ends_at=timezone.now() - timedelta(seconds=1))
        self.assertEqual(client_of(None).post(join, {"code": late}).status_code, 422)

    def test_letters_are_kept_by_their_digest_alone(self) -> None:
        code = make_code(self.teacher, Code.Kind.ACCOUNT)
        letters = code.replace("-", "")
        self.assertEqual(len(letters), 8)
        self.assertFalse(set(letters) & set("ILOU01"))  # none that looks like another
        self.assertNotIn(letters, str(Code.objects.values_list()))

    def test_guessing_is_limited_by_the_address_behind_the_proxy(self) -> None:
        join = reverse("joining:join")
        tries = [self.client.post(join, {"code": f"AAAA-AAA{n}"}).status_code for n in range(12)]
        self.assertEqual(tries, [422] * 10 + [429] * 2)
        elsewhere = Client(headers={"X-Real-IP": "192.0.2.8"})
        self.assertEqual(elsewhere.post(join, {"code": "AAAA-AAAA"}).status_code, 422)

    def test_a_password_that_was_forgotten(self) -> None:
        mira = person("mira")
        owners = client_of(self.owner, raises=True)
        page = owners.post(reverse("joining:let-in", args=[mira.pk]))
        code = page.context["code"]
        self.assertContains(page, code)
        self.assertRedirects(self.client.post(reverse("joining:join"), {"code": code}), reverse("joining:back"))
        new = "another drum, in the attic"
        weak = self.client.post(reverse("joining:back"), {"new_password1": "12345678", "new_password2": "12345678"})
        self.assertEqual(weak.status_code, 422)
        answer = self.client.post(reverse("joining:back"), {"new_password1": new, "new_password2": new})
        self.assertRedirects(answer, reverse("account_login"))
        self.assertEqual(sign_in(self.client, "mira", new), 302)
        self.assertIn("made a code by which a new password was set", AuditLine.objects.get(player=mira).what)
        again = self.client.post(reverse("joining:back"), {"new_password1": PASSWORD, "new_password2": PASSWORD})
        self.assertRedirects(again, reverse("joining:join"))

    def test_names_of_the_two_that_are_no_accounts_are_refused(self) -> None:
        for name in ("local", "Demo"):
            self.client.post(reverse("joining:join"), {"code": make_code(self.teacher, Code.Kind.ACCOUNT)})
            self.assertEqual(self.client.post(reverse("account_signup"), WORDS | {"username": name}).status_code, 200)
        self.assertFalse(Player.objects.filter(username__iexact="demo").exists())


class OnceTests(CommittedTestCase):
    def test_of_six_who_type_a_code_at_once_one_has_it(self) -> None:
        code = make_code(person("teacher", Player.Role.TEACHER), Code.Kind.ACCOUNT)

        def use(_: int) -> bool:
            try:
                return Code.objects.use(code, Code.Kind.ACCOUNT) is not None
            finally:
                connection.close()

        with ThreadPoolExecutor(6) as six:
            self.assertEqual(sum(six.map(use, range(6))), 1)


class SignInTests(DoorTestCase):
    def test_wrong_passwords_are_limited_for_the_name_and_the_address(self) -> None:
        person("mira")
        page = self.client.post(reverse("account_login"), {"login": "mira", "password": "wrong"})
        self.assertContains(page, "not correct")
        for _ in range(5):
            sign_in(self.client, "mira", "wrong")
        self.assertEqual(sign_in(self.client, "mira"), 200)  # too many: also the right one has to wait
        self.assertNotIn("_auth_user_id", self.client.session)

    def test_a_passkey_is_offered_at_the_second_visit_and_once(self) -> None:
        person("mira")
        said = []
        for _ in range(2):
            client = client_of(None)
            answer = client.post(reverse("account_login"), {"login": "mira", "password": PASSWORD}, follow=True)
            said.append("Make a passkey" in answer.content.decode())
        self.assertEqual(said, [True, False])

    def test_thirty_tries_from_one_address_are_enough_for_a_minute(self) -> None:
        tries = [sign_in(self.client, f"nobody{n}", "wrong") for n in range(32)]
        self.assertEqual(tries[-1], 429)
        page = self.client.post(reverse("account_login"), {"login": "x", "password": "wrong"})
        self.assertContains(page, "Too many tries.", status_code=429)

    def test_a_locked_account_is_let_in_no_more_and_its_session_ends(self) -> None:
        mira = person("mira")
        self.assertEqual(sign_in(self.client, "mira"), 302)
        owners = client_of(self.owner, raises=True)
        owners.post(reverse("joining:change", args=[mira.pk]), {"locked": "yes"})
        self.assertEqual(self.client.get(reverse("plan:today")).status_code, 302)
        answer = self.client.post(reverse("account_login"), {"login": "mira", "password": PASSWORD})
        self.assertEqual(answer.headers["Location"], reverse("account_inactive"))

    def test_a_cookie_that_was_stolen_ends_with_signing_out(self) -> None:
        person("mira")
        sign_in(self.client, "mira")
        thief = client_of(None)
        thief.cookies = self.client.cookies.copy()
        self.assertEqual(thief.get(reverse("log:page")).status_code, 200)
        self.client.post(reverse("account_logout"))
        self.assertEqual(thief.get(reverse("log:page")).status_code, 302)

    def test_sessions_are_listed_and_ended(self) -> None:
        mira = person("mira")
        phone = Client(headers={"X-Real-IP": "192.0.2.9", "User-Agent": "A phone"})
        for client in (self.client, phone):
            sign_in(client, "mira")
            client.get(reverse("log:page"))
        page = self.client.get(reverse("usersessions_list"))
        self.assertContains(page, "192.0.2.9")
        self.assertContains(page, "A phone")
        theirs = UserSession.objects.get(user=mira, ip="192.0.2.9")
        self.client.post(reverse("joining:end-session", args=[theirs.pk]))
        self.assertEqual(phone.get(reverse("log:page")).status_code, 302)
        self.assertEqual(self.client.get(reverse("log:page")).status_code, 200)

    def test_six_digits_of_an_app_are_asked_for_once_they_are_on(self) -> None:
        """RFC 6238, by the library cryptography: six digits, thirty seconds, SHA-1."""
        mira = person("mira")
        sign_in(self.client, "mira")
        asked = self.client.get(reverse("mfa_activate_totp"))  # the password once more, before that is changed
        self.assertIn(reverse("account_reauthenticate"), asked.headers["Location"])
        self.client.post(asked.headers["Location"], {"password": PASSWORD})
        page = self.client.get(reverse("mfa_activate_totp"))
        self.assertContains(page, "<svg")
        self.assertNotContains(page, "data:image")  # the policy lets no such picture be
        secret = page.context["form"].secret
        key = base64.b32decode(secret)
        app = TOTP(key, 6, SHA1(), 30, enforce_key_length=False)
        digits = app.generate(int(time.time())).decode()
        self.assertEqual(self.client.post(reverse("mfa_activate_totp"), {"code": digits}).status_code, 302)
        self.assertTrue(Authenticator.objects.filter(user=mira, type="totp").exists())
        again = client_of(None, raises=True)
        answer = again.post(reverse("account_login"), {"login": "mira", "password": PASSWORD})
        self.assertEqual(answer.headers["Location"], reverse("mfa_authenticate"))
        self.assertEqual(again.get(reverse("log:page")).status_code, 302)  # not in yet
        self.assertContains(again.get(reverse("mfa_authenticate")), "The second step")

    def test_a_script_without_a_session_is_told_so_and_keeps_what_it_has(self) -> None:
        answer = self.client.post("/takes/x/", headers={"Accept": "application/json"})
        self.assertEqual(answer.status_code, 404)
        path = "/takes/00000000-0000-0000-0000-000000000001/end/"
        answer = self.client.post(path, {}, content_type="application/json", headers={"Accept": "application/json"})
        self.assertEqual((answer.status_code, "waits in this browser" in answer.json()["error"]), (401, True))


class OwnerTests(DoorTestCase):
    def test_the_owner_is_made_of_the_player_who_is_there_rows_unmoved(self) -> None:
        local = local_player()
        take = Take.objects.create(
            player=local, drill={}, tempo_bpm=60, beats=4, cycles=4, zero_audio_s=0, input="keys"
        )
        call_command("own", "ilse", password=PASSWORD)
        ilse = Player.objects.get(username="ilse")
        self.assertEqual((ilse.pk, ilse.role, ilse.is_local), (local.pk, "owner", True))
        self.assertEqual(Take.objects.get(pk=take.pk).player_id, ilse.pk)
        self.assertEqual(local_player().pk, ilse.pk)  # ./giusto start is still theirs
        self.assertEqual(sign_in(self.client, "ilse"), 302)

    def test_says_what_others_may_and_never_locks_itself_out(self) -> None:
        mira, owners = person("mira"), client_of(self.owner, raises=True)
        owners.post(reverse("joining:change", args=[mira.pk]), {"role": "teacher"})
        mira.refresh_from_db()
        self.assertTrue(mira.teaches)
        self.assertContains(client_of(mira).get(reverse("joining:lines")), "said what the account may")
        owners.post(reverse("joining:change", args=[self.owner.pk]), {"role": "player", "locked": "yes"})
        self.owner.refresh_from_db()
        self.assertTrue(self.owner.is_owner)
        page = owners.get(reverse("joining:studio"))
        self.assertContains(page, "mira")
        self.assertContains(page, "<svg")

    def test_a_teacher_brings_people_in_and_changes_nobody(self) -> None:
        mira, teachers = person("mira"), client_of(self.teacher)
        self.assertRegex(teachers.post(reverse("joining:invite")).content.decode(), r"[A-Z2-9]{4}-[A-Z2-9]{4}")
        self.assertEqual(teachers.post(reverse("joining:change", args=[mira.pk]), {"role": "owner"}).status_code, 403)
        self.assertEqual(teachers.post(reverse("joining:let-in", args=[mira.pk])).status_code, 403)


class LeavingTests(DoorTestCase):
    def test_locked_at_once_and_gone_after_fourteen_days(self) -> None:
        mira = person("mira")
        client = client_of(mira, raises=True)
        take = play(client)
        AuditLine.objects.create(player=mira, by="x", what="looked")
        wrong = client.post(reverse("joining:leave"), {"password": "wrong"})
        self.assertContains(wrong, "not your password", status_code=422)
        self.assertContains(client.post(reverse("joining:leave"), {"password": PASSWORD}), "You have left.")
        self.assertEqual(client.get(reverse("log:page")).status_code, 302)
        sweep()
        self.assertTrue(Take.objects.filter(pk=take.pk).exists())
        Player.objects.filter(pk=mira.pk).update(leaves_at=timezone.now() - timedelta(seconds=1))
        sweep()
        self.assertFalse(Player.objects.filter(pk=mira.pk).exists())
        self.assertFalse(Take.objects.filter(pk=take.pk).exists())
        self.assertFalse(AuditLine.objects.filter(player_id=mira.pk).exists())

    def test_nobody_guesses_a_password_by_leaving(self) -> None:
        client = client_of(person("mira"), raises=True)
        tries = [client.post(reverse("joining:leave"), {"password": "wrong"}) for _ in range(11)]
        self.assertContains(tries[-1], "Too many tries", status_code=422)
        self.assertContains(client.post(reverse("joining:leave"), {"password": PASSWORD}), "Too many", status_code=422)

    def test_the_last_owner_stays(self) -> None:
        owners = client_of(self.owner, raises=True)
        self.assertEqual(owners.post(reverse("joining:leave"), {"password": PASSWORD}).status_code, 422)
        self.owner.refresh_from_db()
        self.assertTrue(self.owner.is_active)

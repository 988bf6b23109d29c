"""A studio in real browsers, over HTTPS with its own authority: a week of teacher and pupil; a phone off the net."""

from __future__ import annotations

import socket
import ssl
import urllib.error
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import Any

from django.utils import timezone
from playwright.sync_api import Error, Page

from studio.accounts.models import Player
from studio.drills.actions import keep_drill
from studio.drills.shelf import shelf
from studio.plans.actions import begin_preset
from studio.plans.presets import PRESETS
from studio.recordings.models import Upload
from studio.takes.models import Take
from studio.teaching import actions
from studio.teaching.models import Assignment, Consent, Remark
from tests.browser.scripts import STEADY_CLOCK
from tests.browser.served import CHROMIUM
from tests.browser.test_take import begin, text_of, until
from tests.many.people import PASSWORD, client_of, person
from tests.many.served import STUDIO, StudioTestCase
from tests.studio.playing import play

setUpModule = STUDIO.open

SLOW = 200  # connections, as were tried when it was designed
ISOLATED = "[isSecureContext, crossOriginIsolated, !!navigator.mediaDevices, typeof AudioWorklet === 'function']"

# As a phone's system hands a file to an installed site.
SHARE = """async () => {
  const form = new FormData();
  form.set("file", new File([new Uint8Array([0, 1, 2, 3, 250])], "memo.m4a", { type: "audio/mp4" }));
  await fetch("/recording/shared/", { method: "POST", body: form });
}"""


class TrustTests(StudioTestCase):
    def test_by_name_and_by_number_with_all_that_a_microphone_needs(self) -> None:
        def look() -> list[object]:
            found = []
            for host in ("giusto.local", "127.0.0.1"):
                self.page.goto(f"https://{host}:{self.site.door.https}/method/")
                found.append(self.page.evaluate(f"(() => {ISOLATED})()"))
            return found

        self.assertEqual(self.browse(look), [[True] * 4] * 2)

    def test_a_browser_that_was_not_told_refuses(self) -> None:
        def look() -> str:
            rules = ["--host-resolver-rules=MAP giusto.local 127.0.0.1"]
            other = self.served.playwright.chromium.launch(executable_path=CHROMIUM, args=rules)
            try:
                other.new_page().goto(self.url("/method/"))
            except Error as error:
                return str(error)
            finally:
                other.close()
            return ""

        self.assertIn("ERR_CERT_AUTHORITY_INVALID", self.browse(look))

    def test_the_page_of_trust_has_how_to_and_the_certificate_and_nothing_else(self) -> None:
        base = f"http://127.0.0.1:{self.site.door.http}"
        with urllib.request.urlopen(base) as page:
            text = page.read().decode()
        for words in ("iPhone", "Android", "take it out again", self.site.door.address):
            self.assertIn(words, text)
        with urllib.request.urlopen(f"{base}/giusto-ca.crt") as given:
            self.assertEqual(given.read(), self.site.authority.read_bytes())
        for path in ("/pki/authorities/local/root.key", "/alive/", "/../Caddyfile"):
            with self.assertRaises(urllib.error.HTTPError) as refused:
                urllib.request.urlopen(base + path)
            self.assertEqual(refused.exception.code, 404)
        key = self.site.authority.with_name("root.key")
        self.assertEqual(key.stat().st_mode & 0o077, 0)


class WeekTests(StudioTestCase):
    init_script = STEADY_CLOCK

    def test_from_the_code_to_the_printed_month(self) -> None:
        teacher = person("runa", Player.Role.TEACHER)
        keep_drill(player=teacher, drill=shelf()["one-heard-three-silent"].drill, name="Three alone", family="dropped")

        def week() -> None:
            desk = self.person(teacher)
            teachers = self.note(desk.new_page())
            teachers.goto(self.url("/studio/"))
            teachers.click("text=A code for somebody new")
            code = text_of(teachers, ".code-letters").strip()
            pupils = self.joined(code)
            self.played(pupils)
            self.taught(teachers)
            self.found(pupils)
            self.printed(teachers)
            self.ended(pupils, teachers)

        self.browse(week)
        self.assertEqual(len(self.faults), 1, self.faults)  # the one page that is there no more, asked for at the end
        self.assertIn("404", self.faults[0])
        self.assertEqual(Assignment.objects.get().is_on, True)

    def joined(self, code: str) -> Page:
        """Make an account by a code, and agree to what the teacher may see."""
        page = self.note(self.new_context(viewport={"width": 390, "height": 844}, has_touch=True).new_page())
        page.goto(self.url("/join/"))
        page.fill("input[name=code]", code)
        page.click("button.solid")
        for name, words in (("display_name", "Tavi"), ("username", "tavi")):
            page.fill(f"input[name={name}]", words)
        for name in ("password1", "password2"):
            page.fill(f"input[name={name}]", PASSWORD)
        page.click("button.solid")
        page.wait_for_url("**/teacher/consent/")
        page.click("text=I agree")
        page.wait_for_url("**/teacher/")
        return page

    def played(self, page: Page) -> None:
        """Play a take, as a phone would: touched."""
        begin(page, self.url("/play/?drill=two-heard-two-silent&bpm=160&grid=2&cycles=4"))
        for _ in range(3):
            page.tap("#tap")
        until(page, "document.querySelector('.reading') !== null || location.pathname.startsWith('/takes/')")
        page.wait_for_url("**/takes/*/")

    def taught(self, page: Page) -> None:
        """See it, say something, ask for something."""
        page.goto(self.url("/pupils/"))
        page.click("text=Tavi")
        self.lesson = page.url
        page.click(".lines a >> nth=0")
        page.fill("#say", "Breathe with it.")
        page.click("text=Say it")
        until(page, "document.body.innerText.includes('Breathe with it.')")
        assert page.locator(".reading-do .solid").count() == 0  # nothing is played from here
        page.click("text=Back")
        page.fill("input[name=goal]", "three clean")
        page.click("text=Ask for it")

    def found(self, page: Page) -> None:
        """Find it on Today, and take it on."""
        page.goto(self.url("/today/"))
        text = text_of(page, "main")
        assert "Breathe with it." in text, text
        assert "three clean" in text, text
        page.click("text=Take it on")
        until(page, "document.body.innerText.includes('yours since')")

    def printed(self, page: Page) -> None:
        """Print the month of everybody."""
        page.goto(self.url("/pupils/"))
        page.click("text=a page for each")
        assert "Tavi" in text_of(page, "main")
        assert page.pdf()[:4] == b"%PDF"

    def ended(self, pupils: Page, teachers: Page) -> None:
        """End what was agreed: at once nothing is there."""
        pupils.goto(self.url("/teacher/"))
        pupils.click("text=End it now")
        until(pupils, "document.body.innerText.includes('Nobody sees anything')")
        gone = teachers.goto(self.lesson)
        assert gone is not None
        assert gone.status == 404, gone.status


class OffTheNetTests(StudioTestCase):
    init_script = STEADY_CLOCK

    def test_a_phone_off_the_net_practises_on_and_its_take_comes_in_once(self) -> None:
        player = person("tavi")
        begin_preset(player=player, key=next(iter(PRESETS)))

        def practise() -> str:
            phone = self.person(player)
            page = self.note(phone.new_page())
            page.goto(self.url("/today/"))
            until(page, "document.body.dataset.kept > 0")
            phone.set_offline(True)
            page.goto(self.url("/log/"))  # not kept: what is here is told
            assert "Off the net" in text_of(page, "h1")
            page.click("#kept a >> nth=0")
            page.click("#tap")
            until(page, "globalThis.giusto?.page?.next >= 2")
            page.keyboard.press("Space")
            page.keyboard.press("Escape")
            until(page, "document.getElementById('word').textContent === 'Kept'")
            phone.set_offline(False)
            page.wait_for_url("**/takes/*/")
            return text_of(page, "main")

        self.browse(practise)
        self.assertEqual(Take.objects.filter(player=player).count(), 1)

    def test_a_recording_shared_from_the_phone_is_brought_in(self) -> None:
        player = person("tavi")

        def share() -> str:
            page = self.note(self.person(player).new_page())
            for _ in range(2):  # the second page has the service worker before it
                page.goto(self.url("/log/"))
                until(page, "navigator.serviceWorker.controller !== null || performance.now() > 3000")
            page.evaluate(SHARE)
            page.goto(self.url("/recording/?shared=1"))
            page.wait_for_url("**/recording/*-*/")
            return page.url

        self.assertIn("/recording/", self.browse(share))
        upload = Upload.objects.get(player=player)
        self.assertEqual(upload.name, "memo.m4a")
        with upload.file.open("rb") as file:
            self.assertEqual(file.read(), bytes([0, 1, 2, 3, 250]))
        upload.file.delete()

    def test_a_new_version_waits_until_no_take_is_played(self) -> None:
        """A worker under another address is another version: it waits beside the one that serves."""
        player = person("tavi")

        def versions(page: Page) -> tuple[str, bool]:
            page = self.note(page.context.new_page())
            page.goto(self.url("/you/"), wait_until="commit")  # each page asks whether the new one may take over
            found = page.evaluate(
                """async () => {
                  const registration = await navigator.serviceWorker.ready;
                  await new Promise((then) => setTimeout(then, 1000));
                  return [registration.active.scriptURL, registration.waiting !== null];
                }"""
            )
            return str(found[0]).rpartition("/")[2], bool(found[1])

        def update() -> list[tuple[str, bool]]:
            context = self.person(player)
            page, other = self.note(context.new_page()), self.note(context.new_page())
            other.goto(self.url("/you/"))
            until(other, "navigator.serviceWorker.controller !== null || performance.now() > 4000")
            begin(page, self.url("/play/?drill=two-heard-two-silent&bpm=60&cycles=16"))
            other.evaluate("navigator.serviceWorker.register('/worker.js?new').then(() => 0)")
            until(other, "navigator.serviceWorker.ready.then((one) => one.waiting !== null)")
            during = versions(other)
            page.keyboard.press("Space")
            page.keyboard.press("Escape")
            page.wait_for_url("**/takes/*/")
            return [during, versions(other)]

        during, after = self.browse(update)
        self.assertEqual(during, ("worker.js", True))
        self.assertFalse(after[1])

    def test_going_out_empties_what_was_kept(self) -> None:
        player = person("tavi")
        begin_preset(player=player, key=next(iter(PRESETS)))

        def leave() -> list[str]:
            page = self.person(player).new_page()
            page.goto(self.url("/today/"))
            until(page, "document.body.dataset.kept > 0")
            page.goto(self.url("/you/"))
            page.click("text=Sign out")
            page.wait_for_url("**/account/login/**")
            until(page, "document.readyState === 'complete'")
            found: list[str] = page.evaluate("caches.keys()")
            return found

        self.assertNotIn("giusto-today", self.browse(leave))


class SlowTests(StudioTestCase):
    def connections(self, request: bytes) -> list[socket.socket]:
        """Open many connections that stop in the middle of a request."""
        context = ssl.create_default_context(cafile=str(self.site.authority))

        def one(_: int) -> socket.socket:
            plain = socket.create_connection(("127.0.0.1", self.site.door.https), timeout=30)
            wrapped = context.wrap_socket(plain, server_hostname="giusto.local")
            wrapped.send(request)
            return wrapped

        with ThreadPoolExecutor(8) as some:
            return list(some.map(one, range(SLOW)))

    def test_two_hundred_who_stop_in_the_middle_hold_nobody_up(self) -> None:
        context = ssl.create_default_context(cafile=str(self.site.authority))
        begun = f"POST /join/ HTTP/1.1\r\nHost: giusto.local:{self.site.door.https}\r\nContent-Length: 100000\r\n"
        for request in (b"GET /method/ HTTP/1.1\r\nHost: giu", begun.encode() + b"\r\n" + b"x" * 20_000):
            held = self.connections(request)
            try:
                for _ in range(5):
                    address = f"https://127.0.0.1:{self.site.door.https}/alive/"
                    with urllib.request.urlopen(address, timeout=10, context=context) as answer:
                        self.assertEqual(answer.status, 200)
            finally:
                for one in held:
                    one.close()


class StrangerTests(StudioTestCase):
    """What somebody on the net might try."""

    def test_a_forged_origin_a_forged_address_and_the_sites_own_headers(self) -> None:
        mira = person("mira")
        client = client_of(mira, raises=True)
        play(client)
        until_day = timezone.localdate() + timedelta(days=5)
        teacher = person("runa", Player.Role.TEACHER)
        actions.agree(player=mira, teacher=teacher, scopes=[], since=None, until=until_day)

        cookies = self.browse(lambda: self.person(teacher).cookies())
        page = f"/pupils/{mira.pk}/"
        foreign = {"Origin": "https://elsewhere.example", "Referer": "https://elsewhere.example/"}
        told = {"X-Forwarded-Host": "evil.example", "X-Real-IP": "203.0.113.9"}
        self.assertEqual(self.ask(page, cookies)[0], 200)
        self.assertEqual(self.ask(f"{page}remark/", cookies, foreign, data=b"text=x")[0], 403)
        self.assertEqual(self.ask("/alive/", cookies, {"Sec-Fetch-Site": "cross-site"})[0], 403)
        status, listed = self.ask("/account/sessions/", cookies, told)
        self.assertEqual((status, "203.0.113.9" in listed), (200, False))  # a visitor does not say where they are
        self.assertEqual((Remark.objects.count(), Consent.objects.count()), (0, 1))

    def ask(
        self, path: str, cookies: list[Any], headers: dict[str, str] | None = None, data: bytes | None = None
    ) -> tuple[int, str]:
        """Ask for a page as a program would, with somebody's cookies."""
        port = self.site.door.https
        said = {"Host": f"giusto.local:{port}", "Cookie": "; ".join(f"{one['name']}={one['value']}" for one in cookies)}
        request = urllib.request.Request(f"https://127.0.0.1:{port}{path}", data, said | (headers or {}))
        context = ssl.create_default_context(cafile=str(self.site.authority))
        try:
            with urllib.request.urlopen(request, timeout=20, context=context) as answer:
                return answer.status, answer.read().decode()
        except urllib.error.HTTPError as error:
            return error.code, ""

    def test_cookies_go_over_tls_alone_and_no_script_reads_the_session(self) -> None:
        mira = person("mira")

        def cookies() -> dict[str, tuple[bool, bool, str]]:
            found = self.person(mira).cookies()
            return {one["name"]: (one["secure"], one["httpOnly"], one["sameSite"]) for one in found}

        found = self.browse(cookies)
        self.assertEqual(found["__Host-giusto"], (True, True, "Lax"))
        self.assertEqual(found["__Host-giusto-csrf"][0], True)


class PasskeyTests(StudioTestCase):
    def test_made_once_and_signed_in_by_without_a_console_error(self) -> None:
        mira = person("mira")

        def passkey() -> str:
            context = self.person(mira)
            page = self.note(context.new_page())
            tools = context.new_cdp_session(page)
            tools.send("WebAuthn.enable")
            key = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True}
            key |= {"isUserVerified": True, "automaticPresenceSimulation": True}
            tools.send("WebAuthn.addVirtualAuthenticator", {"options": key})
            page.goto(self.url("/account/keys/webauthn/add/"))
            page.fill("input[name=password]", PASSWORD)
            page.click("button.solid")
            page.wait_for_url("**/add/**")
            if page.locator("input[name=passwordless]").count():
                page.check("input[name=passwordless]")
            page.click("#mfa_webauthn_add")
            until(page, "!location.pathname.endsWith('/add/')")
            page.wait_for_load_state()
            page.goto(self.url("/you/"))
            page.click("text=Sign out")
            page.wait_for_url("**/account/login/**")
            page.click("#passkey_login")
            page.wait_for_url("**/today/")
            return page.url

        self.assertIn("/today/", self.browse(passkey))
        self.assertEqual(self.faults, [])

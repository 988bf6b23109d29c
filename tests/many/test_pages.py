"""Pages of a studio in a real browser, at three widths: what their first view holds, and what axe says of them."""

from __future__ import annotations

from django.urls import reverse
from playwright.sync_api import Page

from tests.browser.first_view import measure
from tests.many.people import PASSWORD, Things
from tests.many.served import STUDIO, StudioTestCase

setUpModule = STUDIO.open


class StudioPageTests(StudioTestCase):
    """Each kind of person's pages."""

    def paths(self) -> dict[str, dict[str, str]]:
        """Return an address of every page of a studio, by who looks at it."""
        of = Things()
        see = f"/pupils/{of.pupil.pk}/see"
        shown = f"/shown/{of.shown.token}{of.take.get_absolute_url()}"
        door = {name: reverse(name) for name in ("account_login", "account_signup", "joining:join", "account_inactive")}
        mine = ("accounts:you", "plan:today", "teaching:teachers", "joining:lines", "joining:leave", "account_logout")
        mine += ("usersessions_list", "mfa_index", "mfa_list_webauthn", "account_reauthenticate")
        return {
            "": {**door, "a reading by a link": shown, "off the net": reverse("installed:off-the-net")},
            "pupil": {**{name: reverse(name) for name in mine}, "a remark": of.take.get_absolute_url()},
            "teacher": {
                "pupils": reverse("teaching:pupils"),
                "a lesson": reverse("teaching:pupil", args=[of.pupil.pk]),
                "months": reverse("teaching:months", args=[2026, 11]),
                "a look at Today": f"{see}/today/",
                "a look at the log": f"{see}/log/",
                "a look at a reading": f"{see}{of.take.get_absolute_url()}",
                "a look at a ladder": f"{see}{of.ladder.get_absolute_url()}",
                "a look at progress": f"{see}/progress/",
            },
            "owner": {"studio": reverse("joining:studio")},
        }

    def test_first_views_keep_to_the_bars_and_axe_finds_nothing(self) -> None:
        """By axe-core 4, from the package axe-playwright-python, and by the bars of the design."""
        paths = self.paths()

        def look() -> list[str]:
            faults: list[str] = []
            for who, pages in paths.items():
                context = self.new_context(bypass_csp=True, has_touch=True)  # axe is put in from outside
                page = context.new_page()
                if who:
                    self.enter(page, who)
                for name, path in pages.items():
                    faults += measure(page, name, self.url(path))[1]
                context.close()
            return faults

        faults = self.browse(look)
        self.assertEqual(faults, [], "\n".join(faults))

    def enter(self, page: Page, who: str) -> None:
        """Sign somebody in."""
        page.goto(self.url("/account/login/"))
        page.fill("input[name=login]", who)
        page.fill("input[name=password]", PASSWORD)
        page.click("button.solid")
        page.wait_for_url("**/today/")

"""What is refused at the door, and what would once have ended in a failure of ours."""

import io
import json
import zipfile
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from studio import machine
from studio.drills import own_drills
from studio.drills.actions import KeepError
from studio.drills.models import OwnDrill
from tests.drills import plain

WORDS = "drill=two-heard-two-silent&drop=fixed&bpm=96&beats=4&grid=2&cycles=16"
FOREIGN = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors"}


class DoorTests(TestCase):
    def test_other_sites_may_link_here_and_no_more(self) -> None:
        wav = reverse("drills:download", args=["wav"])
        self.assertEqual(self.client.get(wav, headers=FOREIGN).status_code, 403)
        link = self.client.get(reverse("drills:set"), headers=FOREIGN | {"Sec-Fetch-Mode": "navigate"})
        self.assertEqual(link.status_code, 200)
        self.assertEqual(link.headers["Cross-Origin-Resource-Policy"], "same-origin")

    def test_a_body_of_any_size_is_not_read(self) -> None:
        answer = self.client.post(reverse("drills:import"), headers={"Content-Length": str(10**10)})
        self.assertEqual(answer.status_code, 413)

    def test_pages_answer_head(self) -> None:
        for name in ("drills:set", "log:page", "method:page", "accounts:you", "drills:import"):
            with self.subTest(name):
                self.assertEqual(self.client.head(reverse(name)).status_code, 200)

    def test_cleared_cookies_come_again(self) -> None:
        self.assertIn("csrftoken", self.client.get("/alive/").cookies)


class KeepTests(TestCase):
    def keep(self, name: str, **words: str) -> int:
        query = "&".join([WORDS, *(f"{word}={value}" for word, value in words.items())])
        answer = self.client.post(
            reverse("drills:keep"), {"words": query, "name": name, "family": "dropped", "new": "1"}
        )
        return answer.status_code

    def test_a_name_with_a_tab_is_refused_and_nothing_locked(self) -> None:
        self.assertEqual(self.keep("Slow\tblues"), 422)
        self.assertEqual(OwnDrill.objects.count(), 0)
        page = self.client.get(reverse("drills:set"), {"drill": "seven", "name": "a\tb", "bpm": "90"})
        self.assertEqual(page.status_code, 422)

    def test_numbers_of_thousands_of_digits(self) -> None:
        for word in ("every", "groups", "cycles", "places", "bpm"):
            with self.subTest(word):
                page = self.client.get(reverse("drills:set"), {"drill": "seven", word: "9" * 5000, "on": "marked"})
                self.assertEqual(page.status_code, 422)


class ImportTests(TestCase):
    def bring_in(self, *files: tuple[str, bytes]):  # type: ignore[no-untyped-def]
        uploads = [SimpleUploadedFile(name, content) for name, content in files]
        return self.client.post(reverse("drills:import"), {"files": uploads})

    def test_thousands_of_fields_are_told_in_a_line(self) -> None:
        text = json.dumps(plain() | {f"k{n}": 1 for n in range(60_000)}).encode()
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as packed:
            for n in range(5):
                packed.writestr(f"{n}.json", text)
        page = self.bring_in(("a.zip", buffer.getvalue()))
        self.assertContains(page, "fields, allowed are 100 at most", count=5, status_code=422)

    def test_hundreds_of_faults_are_counted(self) -> None:
        page = self.bring_in(("a.json", json.dumps(plain(on=[f"{n}+9/8" for n in range(1, 65)])).encode()))
        self.assertContains(page, "and 44 more", status_code=422)

    def test_a_zip_that_unpacks_to_a_gigabyte(self) -> None:
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as packed:
            for n in range(60):
                packed.writestr(f"{n}.json", b" " * 1_000_000)
        self.assertContains(self.bring_in(("a.zip", buffer.getvalue())), "the zip unpacks to", status_code=422)

    def test_half_a_character(self) -> None:
        text = json.dumps(plain(name="a\ud800b")).encode()
        self.assertContains(self.bring_in(("a.json", text)), "half a character", status_code=422)
        whole = json.dumps(plain(name="\U0001f941")).encode()  # two halves in JSON's escapes are one character
        self.assertEqual(self.bring_in(("a.json", whole)).status_code, 200)

    def test_more_files_than_a_hundred(self) -> None:
        files = [(f"{n}.json", json.dumps(plain(name=f"Drill {n}")).encode()) for n in range(120)]
        self.assertEqual(self.bring_in(*files).status_code, 200)
        self.assertEqual(OwnDrill.objects.count(), 120)

    def test_a_shelf_that_is_full_says_so_and_keeps_what_fitted(self) -> None:
        with patch.object(own_drills.actions, "keep_drill", side_effect=KeepError("There are 5,000 of them.")):
            page = self.bring_in(("a.json", json.dumps(plain()).encode()))
        self.assertContains(page, "There are 5,000 of them.", status_code=422)


class LargeTests(TestCase):
    def test_a_drill_of_five_hundred_places_has_a_page(self) -> None:
        places = ",".join(f"{beat}+{part}/8" if part else str(beat) for beat in range(1, 65) for part in range(8))
        words = {"drill": "seven", "beats": "64", "groups": "", "grid": "8", "on": "marked", "places": places}
        page = self.client.get(reverse("drills:set"), words)
        self.assertContains(page, "too many places to touch")
        self.assertLess(len(page.content), 1_500_000)

    def test_what_no_page_can_play_is_said(self) -> None:
        words = {"drill": "seven", "beats": "64", "groups": "", "cycles": "2000"}
        self.assertContains(self.client.get(reverse("takes:play"), words), "Fewer bars, please", status_code=422)
        midi = self.client.get(reverse("drills:download", args=["mid"]), words)
        self.assertContains(midi, "giusto render", status_code=422)


class ZoneTests(SimpleTestCase):
    def test_whatever_the_machine_says(self) -> None:
        """From memory: ``:/etc/localtime`` and POSIX rules are forms of TZ too."""
        with patch.object(machine, "_configured", return_value=["Nowhere"]):
            for told, zone in (
                ("Europe/Vienna", "Europe/Vienna"),
                ("CET-1CEST", "UTC"),
                ("", "UTC"),
                (":Asia/Tokyo", "Asia/Tokyo"),
            ):
                with self.subTest(told), patch.dict("os.environ", TZ=told):
                    self.assertEqual(machine.machine_zone(), zone)
        with patch.dict("os.environ", TZ=":/usr/share/zoneinfo/Europe/Vienna"):
            self.assertEqual(machine.machine_zone(), "Europe/Vienna")

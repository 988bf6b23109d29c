"""A player's own drills: kept, changed, copied, deleted, brought in and taken out."""

import io
import json
import zipfile
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from giusto.drill import parse, validate
from giusto.drill.family import family_of
from studio.accounts.models import Player, local_player
from studio.drills.delivery import delivery_plan, gains
from studio.drills.models import OwnDrill, delivery_of
from studio.drills.sentence.codec import query, words_of
from studio.drills.shelf import shelf
from tests.drills import fixed, plain

WORDS = "drill=two-heard-two-silent&bpm=88&beats=4&cycles=8&grid=4&drop=fixed&silent=3"


def bundle(files: dict[str, bytes]) -> bytes:
    """Return a zip of some files."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as out:
        for name, text in files.items():
            out.writestr(name, text)
    return buffer.getvalue()


class OwnTestCase(TestCase):
    def keep(self, name: str = "Lanterns, bars 9 to 24", words: str = WORDS, **more: str) -> Any:
        body = {"name": name, "family": "dropped", "words": words, **more}
        return self.client.post(reverse("drills:keep"), body)

    def bring_in(self, *files: tuple[str, bytes]) -> Any:
        uploads = [SimpleUploadedFile(name, text) for name, text in files]
        return self.client.post(reverse("drills:import"), {"files": uploads})


class KeepTests(OwnTestCase):
    def test_a_drill_is_kept_and_stands_in_its_family(self) -> None:
        answer = self.keep(family="none")
        own = OwnDrill.objects.get()
        self.assertRedirects(answer, own.get_absolute_url(), fetch_redirect_response=False)
        self.assertEqual((own.spec["tempo"]["bpm"], own.spec["clicks"]["silence"]["silent"]), (88, 3))
        page = self.client.get(own.get_absolute_url())
        self.assertContains(page, "Kept: Lanterns, bars 9 to 24.")
        self.assertContains(page, 'aria-current="page">Lanterns, bars 9 to 24 <')
        self.assertEqual(self.client.get(reverse("takes:play"), {"drill": str(own.pk)}).status_code, 200)

    def test_a_name_is_taken_once_however_it_is_written(self) -> None:
        self.keep()
        answer = self.keep("LANTERNS, bars 9 to 24")
        self.assertContains(answer, "You have a drill named “LANTERNS, bars 9 to 24” already", status_code=422)
        self.assertContains(answer, 'value="LANTERNS, bars 9 to 24"', status_code=422)  # what was typed stays
        self.assertEqual(OwnDrill.objects.count(), 1)

    def test_a_name_must_be_given(self) -> None:
        for name in ("", "   ", "x" * 121):
            self.assertEqual(self.keep(name).status_code, 422)
        self.assertEqual(self.keep(family="nowhere").status_code, 422)
        self.assertFalse(OwnDrill.objects.exists())

    def test_words_that_make_no_drill_lead_back_to_their_faults(self) -> None:
        self.assertRedirects(self.keep(words="bpm=5"), f"{reverse('drills:set')}?bpm=5", fetch_redirect_response=False)

    def test_changes_are_kept_in_place_or_as_a_new_drill(self) -> None:
        self.keep()
        own = OwnDrill.objects.get()
        words = query(words_of(validate(own.spec)), drill=own.pk, bpm=100)
        self.keep("Lanterns", words=words, change="")
        own.refresh_from_db()
        self.assertEqual((own.name, own.spec["name"], own.spec["tempo"]["bpm"]), ("Lanterns", "Lanterns", 100))
        self.keep("Lanterns, slower", words=words.replace("bpm=100", "bpm=70"), new="")
        self.assertEqual(OwnDrill.objects.count(), 2)

    def test_copy_delete_and_undo(self) -> None:
        self.keep()
        own = OwnDrill.objects.get()
        self.client.post(reverse("drills:copy", args=[own.pk]))
        copy = OwnDrill.objects.exclude(pk=own.pk).get()
        self.assertEqual((copy.name, copy.spec["name"]), ("Lanterns, bars 9 to 24 2",) * 2)
        answer = self.client.post(reverse("drills:delete", args=[own.pk]), follow=True)
        self.assertContains(answer, "Lanterns, bars 9 to 24 is deleted.")
        self.assertContains(answer, "Undo")
        self.assertEqual(OwnDrill.objects.visible_to(own.player).count(), 1)
        self.keep()  # the name is free, and taken again
        self.client.post(reverse("drills:restore", args=[own.pk]))
        own.refresh_from_db()
        self.assertEqual((own.name, own.deleted_at), ("Lanterns, bars 9 to 24 3", None))

    def test_another_players_drill_is_not_there(self) -> None:
        other = Player.objects.create(username="other")
        own = OwnDrill.objects.create(player=other, name="Theirs", family="settle", spec=plain())
        for name in ("copy", "delete", "restore"):
            self.assertEqual(self.client.post(reverse(f"drills:{name}", args=[own.pk])).status_code, 404)
        self.assertNotContains(self.client.get(own.get_absolute_url()), "Theirs")

    def test_changes_need_a_post(self) -> None:
        self.keep()
        own = OwnDrill.objects.get()
        for name in ("copy", "delete", "restore"):
            self.assertEqual(self.client.get(reverse(f"drills:{name}", args=[own.pk])).status_code, 405)


class FamilyTests(TestCase):
    def test_each_built_in_click_is_told_apart(self) -> None:
        """Families that the click alone decides; settling and following are the same click."""
        for built_in in shelf().values():
            if built_in.family in ("sparse", "dropped", "none", "figures") and built_in.slug not in (
                "quarters-100",  # every beat: what follows is measured against it
                "in-turn",  # long silences, but the click comes back each time
            ):
                with self.subTest(built_in.slug):
                    self.assertEqual(family_of(built_in.drill), built_in.family)

    def test_hand_picked(self) -> None:
        for changes, family in (
            ({"silence": None}, "follow"),
            ({"silence": None, "bpm": 40}, "slow"),
            ({"silence": None, "on": ["1"]}, "sparse"),
            ({"silence": None, "on": ["1+1/2"]}, "moved"),
            ({"silence": fixed(1, 7)}, "none"),
            ({"silence": fixed(2, 7)}, "dropped"),
            ({"silence": None, "play": ["1"]}, "figures"),
        ):
            self.assertEqual(family_of(validate(plain(**changes))), family, changes)


class FilesTests(OwnTestCase):
    def test_out_and_in_again(self) -> None:
        drills = [b.drill for b in shelf().values()]
        files = {f"{number}.json": d.model_dump_json().encode() for number, d in enumerate(drills)}
        answer = self.bring_in(("all.zip", bundle(files)))
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(OwnDrill.objects.count(), len(drills))
        out = self.client.get(reverse("drills:export"))
        with zipfile.ZipFile(io.BytesIO(out.content)) as found:
            names = found.namelist()
            again = {parse(found.read(name)) for name in names}
        self.assertEqual(len(set(names)), len(drills))
        self.assertEqual(again, set(drills))

    def test_the_sentence_as_a_file(self) -> None:
        answer = self.client.get(f"{reverse('drills:download', args=['json'])}?{WORDS}")
        self.assertEqual(parse(answer.content).clicks.silence.silent, 3)
        self.assertIn('filename="every-beat-2-bars-with-it-and-3-alone.json"', answer["Content-Disposition"])

    def test_a_name_that_is_taken_gets_a_number(self) -> None:
        text = json.dumps(plain(name="Mine")).encode()
        self.bring_in(("a.json", text), ("b.json", text))
        nameless = json.dumps(plain(name="")).encode()
        self.bring_in(("c.json", nameless))
        self.assertEqual({d.name for d in OwnDrill.objects.all()}, {"Mine", "Mine 2", "Without a name"})
        self.assertEqual({d.spec["name"] for d in OwnDrill.objects.all()}, {"Mine", "Mine 2", "Without a name"})

    def test_twenty_broken_files(self) -> None:
        """Each refused with its place; the good one beside them is kept, and nothing else changes."""
        whole = json.dumps(plain())

        def without(field: str) -> str:
            return json.dumps({key: value for key, value in plain().items() if key != field})

        broken = {
            "empty": (b"", "not JSON"),
            "cut": (whole[:80].encode(), "not JSON"),
            "list": (b"[]", "a drill is a JSON object, not list"),
            "latin": (whole.replace("Two", "Zw\xf6").encode("latin-1"), "not UTF-8 text (byte"),
            "binary": (bytes(range(256)), "not UTF-8 text"),
            "huge": (b" " * 1_000_001, "the file is larger than 1,000,000 bytes"),
            "deep": (b"[" * 100_000, "nested too deeply"),
            "twice": (whole.replace('"cycles"', '"close"').encode(), "close: stands twice in one object"),
            "infinite": (whole.replace("96", "Infinity").encode(), "Infinity is no number"),
            "no-version": (without("giusto").encode(), "giusto: is missing"),
            "version": (whole.replace("drill/1", "drill/4").encode(), "giusto: is &quot;drill/4&quot;"),
            "no-tempo": (without("tempo").encode(), "tempo: is missing"),
            "fast": (json.dumps(plain(bpm=500)).encode(), "tempo.bpm: is 500, allowed is at most 400"),
            "word": (json.dumps(plain(bpm="96")).encode(), "tempo.bpm: is &quot;96&quot;, allowed is a number"),
            "mood": (json.dumps({**plain(), "mood": 1}).encode(), "mood: is not a field"),
            "place": (json.dumps(plain(on=["5"])).encode(), "clicks.on[0]: is &quot;5&quot;"),
            "none": (json.dumps(plain(on=[])).encode(), "clicks.on: is [], allowed is a list of at least 1"),
            "groups": (json.dumps(plain(groups=[3])).encode(), "cycle.groups: is a sum of 3"),
            "silence": (json.dumps(plain(silence={"kind": "odd"})).encode(), "clicks.silence: is"),
            "off-grid": (json.dumps(plain(play=["1+1/3"])).encode(), "part.play[0]: is &quot;1+1/3&quot;"),
            "zip": (b"PK\x05\x06" + bytes(18), "the zip holds no .json file"),
        }
        self.assertGreaterEqual(len(broken), 20)
        files = [(f"{name}.json", text) for name, (text, _) in broken.items()]
        answer = self.bring_in(*files, ("good.json", whole.encode()))
        self.assertEqual(answer.status_code, 422)
        for name, (_, message) in broken.items():
            with self.subTest(name):
                self.assertContains(answer, f"{name}.json", status_code=422)
                self.assertContains(answer, message, status_code=422)
        self.assertEqual([d.name for d in OwnDrill.objects.all()], ["Two bars alone"])

    def test_broken_and_boundless_zips(self) -> None:
        good = bundle({"a.json": json.dumps(plain()).encode()})
        for name, data, message in (
            ("cut.zip", good[:40], "not UTF-8|not JSON"),
            ("flipped.zip", good[:60] + b"x" + good[61:], "the zip can&#x27;t be read"),
            ("bomb.zip", bundle({"bomb.json": b" " * 30_000_000}), "bomb.zip/bomb.json.*larger than 1,000,000 bytes"),
            ("many.zip", bundle({f"{n}.json": b"{}" for n in range(1001)}), "1,001 files, allowed are 1,000"),
            ("text.zip", bundle({"readme.txt": b"hello"}), "no .json file"),
        ):
            with self.subTest(name):
                answer = self.bring_in((name, data))
                self.assertEqual(answer.status_code, 422)
                self.assertRegex(answer.content.decode().replace("\n", " "), message)
        self.assertFalse(OwnDrill.objects.exists())

    def test_no_file_is_said(self) -> None:
        self.assertContains(self.client.post(reverse("drills:import")), "No file was chosen.", status_code=422)


class ReachTests(OwnTestCase):
    def plan(self) -> dict[str, Any]:
        page = self.client.get(reverse("takes:play"), {"drill": "figure-1-a"})
        start = page.content.decode().index('<script id="plan"')
        text = page.content.decode()[start:]
        return json.loads(text[text.index(">") + 1 : text.index("</script>")])

    def test_soft_by_default(self) -> None:
        reach = self.plan()["delivery"]
        self.assertEqual((reach["voice"], reach["heard"], reach["seen"], reach["felt"]), ("wood", True, False, False))
        self.assertLess(reach["gains"]["click"], 0.25)

    def test_any_mix_is_kept(self) -> None:
        words = {"heard": "no", "voice": "felt", "level": "loud", "accent": "more", "seen": "yes", "felt": "yes"}
        answer = self.client.post(reverse("drills:delivery"), words, headers={"HX-Request": "true"})
        self.assertContains(answer, "Accents are")
        reach = self.plan()["delivery"]
        self.assertEqual((reach["voice"], reach["seen"], reach["felt"]), ("felt", True, True))
        self.assertEqual(set(reach["gains"].values()), {0.0})

    def test_accents_are_as_much_louder_as_said(self) -> None:
        self.client.post(
            reverse("drills:delivery"),
            {"heard": "yes", "voice": "wood", "level": "soft", "accent": "equal", "seen": "no", "felt": "no"},
        )
        gains = self.plan()["delivery"]["gains"]
        # The sounds themselves hold 1.0 for an accent and 0.8 for a click.
        self.assertAlmostEqual(gains["accent"] * 1.0, gains["click"] * 0.8, places=3)

    def test_a_click_that_reaches_nobody_is_refused(self) -> None:
        words = {"heard": "no", "voice": "felt", "level": "loud", "accent": "more", "seen": "no", "felt": "no"}
        answer = self.client.post(reverse("drills:delivery"), words, headers={"HX-Request": "true"})
        self.assertContains(answer, "The click must reach you")
        self.assertTrue(self.plan()["delivery"]["heard"])

    def test_care_stands_in_a_line_and_more_of_it_in_reach(self) -> None:
        page = self.client.get(reverse("drills:set"))
        self.assertContains(page, "long loud clicking wears the ear. Stop when the hand hurts.")
        self.assertContains(page, reverse("drills:care"))
        self.assertContains(self.client.get(reverse("drills:care")), "belongs to a doctor")

    def test_words_that_are_none(self) -> None:
        answer = self.client.post(reverse("drills:delivery"), {"heard": "maybe"}, follow=True)
        self.assertContains(answer, "That is not a choice.")
        self.assertFalse(hasattr(local_player(), "delivery"))

    def test_in_one_ear_and_louder_by_a_key(self) -> None:
        words = {"heard": "yes", "voice": "wood", "level": "soft", "accent": "some", "side": "left", "seen": "no"}
        self.client.post(reverse("drills:delivery"), words | {"felt": "no"})
        self.assertEqual(delivery_of(local_player()).side, "left")
        self.assertEqual(delivery_plan(delivery_of(local_player()))["side"], "left")
        self.assertEqual(self.client.post(reverse("drills:loudness"), {"level": "loud"}).status_code, 204)
        kept = delivery_of(local_player())
        self.assertEqual((kept.level, kept.side), ("loud", "left"))
        levels = dict(delivery_plan(kept)["levels"])
        self.assertEqual(levels["loud"], gains(kept))
        clicks = [one["click"] for one in levels.values()]
        self.assertEqual(clicks, sorted(clicks))
        for wrong in ("", "deafening"):
            self.assertEqual(self.client.post(reverse("drills:loudness"), {"level": wrong}).status_code, 422)

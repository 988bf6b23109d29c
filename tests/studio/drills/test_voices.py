"""The voices of the click: accents in another, counted aloud, a sound of the player's own and what becomes of it."""

from __future__ import annotations

import io
import json
from pathlib import Path
from unittest.mock import patch

import numpy as np
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from giusto.click.said import LEAD_S, word_samples
from giusto.click.voice import VOICES, OwnSound
from giusto.drill import validate
from giusto.errors import GiustoError
from giusto.hearing.own_click import cut
from studio.accounts.models import Player, local_player
from studio.archive.reading import read_archive
from studio.drills import voices
from studio.drills.just import just_the_click
from studio.drills.models import OwnClick, delivery_of
from tests.drills import plain
from tests.giusto.hearing.test_own_click import bell
from tests.studio.scores import read_all

WORDS = {"voice": "wood", "level": "soft", "accent": "some", "seen": "no", "felt": "no", "way": "heard"}
PLAY = "/play/?drill=two-heard-two-silent&bpm=96&cycles=4"


def recording() -> SimpleUploadedFile:
    """Return a short recording, as a phone makes one."""
    buffer = io.BytesIO()
    soundfile.write(buffer, bell(), 44_100, format="WAV")
    return SimpleUploadedFile("kitchen bell.wav", buffer.getvalue())


class VoicesTests(TestCase):
    def plan(self) -> dict[str, object]:
        page = self.client.get(PLAY).content.decode()
        found: dict[str, object] = json.loads(
            page.partition('id="plan"')[2].partition(">")[2].partition("</script>")[0]
        )
        return found

    def say(self, **words: str) -> None:
        self.client.post(reverse("drills:delivery"), WORDS | words)

    def test_accents_in_another_voice(self) -> None:
        self.say(accent_voice="pin")
        self.assertEqual(self.plan()["delivery"]["accent_voice"], "pin")  # type: ignore[index]
        self.say(accent_voice="")
        self.assertEqual(self.plan()["delivery"]["accent_voice"], "wood")  # type: ignore[index]

    def test_counted_aloud_each_click_has_its_word_in_the_school_of_the_player(self) -> None:
        self.assertEqual({len(click) for click in self.plan()["clicks"]}, {2})  # type: ignore[attr-defined]
        self.say(counted="yes")
        said = self.plan()
        words = [click[2] for click in said["clicks"]]  # type: ignore[attr-defined]
        self.assertEqual(words[:4], ["one", "two", "three", "four"])
        self.assertEqual(said["delivery"]["word_lead_s"], LEAD_S)  # type: ignore[index]
        self.assertGreater(said["delivery"]["gains"]["word"], 0)  # type: ignore[index]
        rounds = just_the_click(validate(plain(subdivide=2, beats=1)), school="takadimi")
        self.assertEqual([word for _, _, word in rounds["plain"]["clicks"]], ["one", "di"])

    def test_a_form_of_an_older_page_changes_neither(self) -> None:
        self.say(counted="yes", accent_voice="low")
        self.say(step="louder")
        found = delivery_of(local_player())
        self.assertEqual((found.counted, found.accent_voice, found.level), (True, "low", "plain"))

    def test_words_are_sounds_like_clicks_and_no_way_to_other_files(self) -> None:
        answer = self.client.get("/set/sounds/words/three/48000/")
        np.testing.assert_array_equal(np.frombuffer(answer.content, "<f4"), word_samples("three", rate_hz=48_000))
        for address in ("words/umpteen/48000", "words/click/48000", "wood/three/48000", "gong/click/48000"):
            self.assertEqual(self.client.get(f"/set/sounds/{address}/").status_code, 404)

    def test_counted_in_what_is_taken_away(self) -> None:
        plainly = self.client.get("/set/click.flac?drill=two-heard-two-silent&bpm=96&cycles=4").getvalue()
        self.say(counted="yes")
        counted = self.client.get("/set/click.flac?drill=two-heard-two-silent&bpm=96&cycles=4").getvalue()
        self.assertGreater(len(counted), len(plainly))


class OwnClickTests(TestCase):
    def bring(self, name: str = "") -> OwnClick:
        """Bring a sound, let the worker make a click of it, and follow to where it leads."""
        answer = self.client.post(reverse("drills:own-click"), {"file": recording(), "name": name})
        with patch("studio.drills.voices.own_sound", side_effect=AssertionError("in a request")):
            self.client.get(answer.url)
        read_all(apart=True)
        self.assertContains(self.client.get(answer.url, follow=True), "The click is")
        return OwnClick.objects.latest("made_at")

    def test_brought_it_is_the_click_and_its_sound_is_sent(self) -> None:
        own = self.bring()
        self.assertEqual((own.name, delivery_of(local_player()).voice), ("kitchen bell", own.voice))
        self.assertContains(self.client.get(reverse("drills:set")), "“kitchen bell”")
        sent = np.frombuffer(self.client.get(f"/set/sounds/{own.voice}/click/48000/").content, "<f4")
        np.testing.assert_allclose(sent, 0.8 * cut(bell(), 44_100).samples, rtol=0, atol=2e-4)
        again = self.bring("bell of the kitchen")
        self.assertEqual((OwnClick.objects.count(), again.pk, again.name), (1, own.pk, "bell of the kitchen"))

    def test_put_away_it_is_chosen_no_more_and_takes_still_know_it(self) -> None:
        own = self.bring()
        self.client.post(reverse("drills:put-click-away", args=[own.key]))
        self.assertEqual(delivery_of(local_player()).voice, "wood")
        self.assertNotIn(own.voice, dict(voices.choices(local_player())))
        self.assertIsInstance(voices.voice_of(local_player(), own.voice), OwnSound)

    def test_another_players_is_wood_and_can_t_be_put_away(self) -> None:
        own = self.bring()
        other = Player.objects.create(username="other")
        self.assertEqual(voices.voice_of(other, own.voice), next(iter(VOICES)))
        OwnClick.objects.filter(pk=own.pk).update(player=other)
        self.assertEqual(self.client.post(reverse("drills:put-click-away", args=[own.key])).status_code, 404)
        self.assertEqual(self.client.get(f"/set/sounds/{own.voice}/click/48000/").status_code, 200)  # wood

    def test_what_is_no_sound_is_said_and_nothing_is_kept(self) -> None:
        for content, said in ((b"not a sound at all", "can’t be read"), (b"", "empty")):
            answer = self.client.post(reverse("drills:own-click"), {"file": SimpleUploadedFile("a.wav", content)})
            if answer.status_code == 302:
                read_all(apart=True)
                answer = self.client.get(answer.url)
            self.assertContains(answer, said, status_code=answer.status_code)
        large = SimpleUploadedFile("a.wav", b"\0" * (voices.MOST_BYTES + 1))
        self.assertContains(
            self.client.post(reverse("drills:own-click"), {"file": large}), "allowed are", status_code=422
        )
        self.assertEqual(OwnClick.objects.count(), 0)

    def test_no_more_than_a_choice_can_hold(self) -> None:
        player, rng = local_player(), np.random.default_rng(2)
        for number in range(voices.MOST_OWN):
            voices.keep(player=player, sound=OwnSound(rng.uniform(-1, 1, 500), 1000.0), name=str(number))
        with self.assertRaisesRegex(GiustoError, "allowed are no more"):
            voices.keep(player=player, sound=OwnSound(rng.uniform(-1, 1, 500), 1000.0), name="one more")

    def test_it_comes_back_with_the_archive(self) -> None:
        own = self.bring()
        archive = self.client.get(reverse("archive:take-out")).getvalue()
        Player.objects.all().delete()
        read_archive(local_player(), io.BytesIO(archive))
        back = OwnClick.objects.get()
        self.assertEqual((back.key, back.name, bytes(back.samples)), (own.key, own.name, bytes(own.samples)))
        self.assertEqual(delivery_of(local_player()).voice, own.voice)

    def test_samples_that_are_none_are_refused(self) -> None:
        for samples in (b"", b"abc", bytes(200_000)):
            with self.assertRaisesRegex(ValueError, "allowed are 2 to"):
                voices.sounding(samples)

    def test_where_words_were_made_stands_beside_them(self) -> None:
        folder = Path(__file__).parents[3] / "src/giusto/click/words"
        self.assertIn("espeak-ng", (folder / "README.txt").read_text(encoding="utf-8"))

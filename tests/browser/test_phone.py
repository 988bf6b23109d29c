"""The desk plays and shows, a phone listens: two pages of one player, their clocks joined by the server's time."""

from __future__ import annotations

import numpy as np
from django.test import tag
from playwright.sync_api import Page

from giusto.arrays import FloatArray
from studio.accounts.models import local_player
from studio.hearing.models import Ear
from studio.takes.models import SoundPiece, Take
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import begin, played_plan, until, wait_for_reading, words

setUpModule = SERVED.open_with_worker

# A microphone that hears strokes of ours, at moments that are said in the time of day. They sound in the page's own
# context: between two contexts a busy machine without a sound device loses pieces of what is heard.
STRIKES = """
let room = null;
let air = null;
AudioContext.prototype.createMediaStreamSource = function () {
  room = this;
  air = new GainNode(this);
  return air;
};
navigator.mediaDevices.getUserMedia = async () => new MediaStreamAudioDestinationNode(new AudioContext()).stream;
window.strike = (moments) => {
  const stroke = new AudioBuffer({ length: 4000, sampleRate: room.sampleRate });
  const samples = stroke.getChannelData(0);
  for (let i = 0; i < samples.length; i += 1) samples[i] = 0.6 * Math.sin(0.18 * i) * Math.exp(-i / 500);
  const ahead_s = room.currentTime - (performance.timeOrigin + performance.now()) / 1000;
  for (const at of moments) {
    const source = new AudioBufferSourceNode(room, { buffer: stroke });
    source.connect(air);
    source.start(ahead_s + at / 1000);
  }
};
"""


@tag("sound")
class PhoneTests(ServedTestCase):
    def test_a_phone_hears_what_the_desk_plays(self) -> None:
        Ear.objects.update_or_create(player=local_player(), defaults={"by": "phone"})

        def phone() -> Page:
            """Open the page of the phone, and let it listen."""
            other = self.new_context().new_page()
            other.add_init_script(STRIKES)
            other.goto(self.url("/ear/"))
            other.click("#listen")
            until(other, "document.getElementById('says').textContent.startsWith('Play on the other')")
            return other

        def take() -> FloatArray:
            other = phone()
            begin(self.page, self.url(words(cycles=4)))
            asked_s = played_plan(self.page).seconds(played_plan(self.page).notes.tick)
            zero_ms = self.page.evaluate("giusto.page_ms(0) + performance.timeOrigin")
            other.evaluate("(moments) => strike(moments)", [zero_ms + 1000 * at for at in asked_s.tolist()])
            until(other, "document.getElementById('says').textContent.startsWith('A take is played')")
            wait_for_reading(self.page)
            until(other, "document.getElementById('says').textContent.startsWith('Play on the other')")
            other.context.close()
            found: FloatArray = asked_s
            return found

        asked_s = self.browse(take)
        kept = Take.objects.get()
        self.assertEqual((kept.input, kept.hearing.by, SoundPiece.objects.count()), ("phone", "phone", 0))
        self.assertLess(kept.hearing.phone.half_s, 0.5)
        found_s = np.array(kept.reading.onsets_s)
        off_ms = np.array([1000 * (found_s - at)[np.argmin(np.abs(found_s - at))] for at in asked_s])
        self.assertGreater(float(np.mean(np.abs(off_ms - np.median(off_ms)) < 8)), 0.9)  # even, as it was played
        self.assertLess(abs(float(np.median(off_ms))), 1000 * kept.hearing.phone.half_s + 150)  # the way of its sound
        self.assertEqual(self.faults, [])

    def test_without_a_phone_the_page_says_where_to_open_it(self) -> None:
        Ear.objects.update_or_create(player=local_player(), defaults={"by": "phone"})

        def look() -> str:
            self.page.goto(self.url(words(cycles=2)))
            until(self.page, "document.getElementById('level').textContent.includes('No phone listens')")
            return self.page.inner_text("#level")

        self.assertIn("/ear/", self.browse(look))

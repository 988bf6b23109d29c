"""The instrument heard through the real pages: stand-ins, refusal, loss, strokes that count in, hands alone."""

from __future__ import annotations

import base64
import io
import json
import re

import numpy as np
import soundfile
from django.test import tag
from playwright.sync_api import Page, Request

from giusto.arrays import FloatArray
from giusto.drill import validate
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer as SimulatedPlayer
from giusto.simulation.player import simulate
from studio.accounts.models import local_player
from studio.hearing.models import Delay, Ear
from studio.takes.models import SoundPiece, Take
from tests.browser.scripts import STEADY_CLOCK
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_failures import machine
from tests.browser.test_take import begin, pass_time, text_of, until, wait_for_reading, words

setUpModule = SERVED.open_with_worker

READY = "globalThis.giustoHears"
# The browser has no microphone, or may not use it; the first is known only when the player has begun.
NO_DEVICE = """
navigator.mediaDevices.getUserMedia = () => new Promise((_, refuse) => {
  setTimeout(() => refuse(new DOMException("none", "NotFoundError")), 1000);
});
"""
REFUSED = """
navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException("no", "NotAllowedError"));
"""
# A microphone whose cable can be pulled: a stream of the page's own.
LOSES = """
navigator.mediaDevices.getUserMedia = async () => {
  const context = new AudioContext();
  const to = context.createMediaStreamDestination();
  new OscillatorNode(context).connect(new GainNode(context, { gain: 0.001 })).connect(to);
  window.track = to.stream.getAudioTracks()[0];
  window.pull = () => { window.track.stop(); window.track.dispatchEvent(new Event("ended")); };
  return to.stream;
};
"""
# A network on which the answer to what was heard comes later than the next stroke.
SLOW_ANSWERS = """
const { fetch } = window;
window.fetch = async (address, ...more) => {
  const answer = await fetch(address, ...more);
  if (String(address).includes("/heard/listen/")) await new Promise((done) => setTimeout(done, 800));
  return answer;
};
"""
# Two MIDI instruments, without a cable.
TWO_PORTS = """
window.ports = ["pads", "keys"].map((name) => Object.assign(new EventTarget(), { name, state: "connected" }));
navigator.requestMIDIAccess = async () =>
  Object.assign(new EventTarget(), { inputs: new Map(window.ports.map((port) => [port.name, port])) });
"""


def choose(**fields: object) -> None:
    """Let the local player be heard so."""
    Ear.objects.update_or_create(player=local_player(), defaults=fields)


def played_of(take: Take) -> FloatArray:
    """Return when a take's simulated player played, by its seed."""
    assert take.simulated
    plan = schedule(validate(take.drill))
    return simulate(plan, SimulatedPlayer(**take.simulated["player"]), seed=take.simulated["seed"]).onsets_s


def open_by_key(page: Page, url: str) -> None:
    """Come to the play page as a player does, by Enter on its sentence: from there on a browser lets pages sound."""
    page.goto(url.replace("/play/", "/set/"))
    page.keyboard.press("Enter")
    page.wait_for_url("**/play/**")


def sound_in(request: Request) -> tuple[int, int, int]:
    """Return how many pieces a batch carries as they are, of how many frames its packed ones are, and their bytes."""
    if "/batches/" not in request.url:
        return 0, 0, 0
    pieces = json.loads(request.post_data or "{}").get("sound", [])
    packed = [piece["flac"] for piece in pieces if "flac" in piece]
    frames = sum(soundfile.info(io.BytesIO(base64.b64decode(text))).frames for text in packed)
    return len(pieces) - len(packed), frames, sum(map(len, packed))


def strike(page: Page, times: int, *, apart_ms: int, how: str) -> None:
    """Strike a stand-in evenly: by the audio clock, or by the stamps of its events."""
    page.evaluate(
        """([times, apart, how]) => {
          const { microphone, midi } = giustoHears;
          const soon = (microphone?.context.currentTime ?? 0) + 0.2;
          const now = performance.now(); // looked at once: a busy machine takes its time from stroke to stroke
          for (let i = 0; i < times; i += 1) {
            if (how === "sound") microphone.standIn.play([soon + (i * apart) / 1000], [0.6]);
            else midi.standIn.strike(now - (times - 1 - i) * apart);
          }
        }""",
        [times, apart_ms, how],
    )


def rest(page: Page, seconds: float) -> None:
    """Let the microphone hear nothing for a while, by its own clock: a busy machine's falls behind."""
    now_s = page.evaluate("giustoHears.microphone.context.currentTime")
    until(page, f"giustoHears.microphone.context.currentTime > {now_s + seconds}")


@tag("sound")
class StandInTests(ServedTestCase):
    """Sound on the audio clock: these listen, and have the machine to themselves."""

    def test_a_whole_take_through_the_stand_in_microphone(self) -> None:
        """Loudspeaker, room, delay, recorder, batches, server: the injected drifts come back, SD ≤ 1 ms for drums."""
        choose(by="stand-in", sound="skin", bleed_db=-25.0, delay_ms=38.0, keeps_sound=True)

        sent: list[tuple[int, int, int]] = []

        def play() -> str:
            self.page.on("request", lambda request: sent.append(sound_in(request)))
            begin(self.page, self.url(words(by="simulated")))
            return wait_for_reading(self.page)

        self.browse(play)
        take = Take.objects.get()
        self.assertEqual(sum(as_it_is for as_it_is, _, _ in sent), 0)
        frames, packed = sum(frames for _, frames, _ in sent), sum(size for _, _, size in sent)
        self.assertGreater(frames, 15 * take.device.sample_rate_hz)
        self.assertLess(packed, 0.5 * frames * 2 * 4 / 3)  # base64 of 16 bits a sample, as it was
        self.assertEqual((take.input, take.hearing.by, take.hearing.source.by), ("simulated", "stand-in", "bleed"))
        self.assertAlmostEqual(take.hearing.round_trip_ms, 38.0, delta=0.3)
        self.assertEqual(SoundPiece.objects.count(), 0)  # heard, and gone
        truth_s, found_s = played_of(take), np.array(take.reading.onsets_s)
        off_ms = 1000 * np.array([found_s[np.argmin(np.abs(found_s - at))] - at for at in truth_s])
        near = np.abs(off_ms) < 10
        self.assertGreater(near.mean(), 0.96)
        self.assertLess(off_ms[near].std(), 1.0)
        self.assertLess(abs(off_ms[near].mean()), 1.0)
        self.assertGreater(take.sound.bytes, 10_000)
        answer = self.client.get(f"/takes/{take.pk}/sound/?from=2&to=4")
        self.assertEqual((answer["Content-Type"], answer.content[:4]), ("audio/wav", b"RIFF"))
        self.assertContains(self.client.get(take.get_absolute_url()), "Forget the sound now")
        self.assertEqual(self.faults, [])

    def test_a_server_that_dies_in_mid_take_loses_no_sound(self) -> None:
        choose(by="stand-in", sound="wood", bleed_db=-25.0, delay_ms=20.0)

        def start() -> None:
            begin(self.page, self.url(words(by="simulated")))
            until(self.page, "giusto.ledger.take.count >= 6")

        def finish() -> None:
            pass_time(self.page, 2.5, "the player plays on without a server")
            self.site.start()
            wait_for_reading(self.page)

        self.browse(start)
        self.assertGreater(SoundPiece.objects.count(), 2)
        self.site.stop()
        self.browse(finish)
        take = Take.objects.get()
        truth_s, found_s = played_of(take), np.array(take.reading.onsets_s)
        near = np.array([np.min(np.abs(found_s - at)) for at in truth_s])
        self.assertGreater(np.mean(near < 0.01), 0.96)

    def test_four_strokes_on_the_instrument_begin_the_take_in_their_own_pulse(self) -> None:
        choose(by="stand-in", sound="wood", bleed_db=None, delay_ms=8.0)

        def play() -> float:
            open_by_key(self.page, self.url(words(cycles=2)))
            until(self.page, f"{READY} && {READY}.microphone?.context.state === 'running'")
            rest(self.page, 2.5)
            strike(self.page, 3, apart_ms=375, how="sound")
            rest(self.page, 4.0)
            self.assertEqual(machine(self.page), "idle")  # three start nothing
            strike(self.page, 4, apart_ms=375, how="sound")
            until(self.page, "globalThis.giusto?.zero_s > 0")
            wait_for_reading(self.page)
            return 0.0

        self.browse(play)
        self.assertEqual(Take.objects.count(), 1)

    def test_the_last_stroke_counts_where_the_answer_to_the_one_before_it_is_slow(self) -> None:
        choose(by="stand-in", sound="wood", bleed_db=None, delay_ms=8.0)

        def play() -> None:
            self.page.add_init_script(SLOW_ANSWERS)
            open_by_key(self.page, self.url(words(cycles=2)))
            until(self.page, f"{READY} && {READY}.microphone?.context.state === 'running'")
            rest(self.page, 2.5)
            strike(self.page, 4, apart_ms=375, how="sound")
            until(self.page, "globalThis.giusto?.zero_s > 0")

        self.browse(play)
        self.assertEqual(self.faults, [])

    def test_an_instrument_is_learned_from_ten_strokes(self) -> None:
        choose(by="stand-in", sound="wood", bleed_db=None, delay_ms=8.0)

        def learn() -> str:
            page = self.page
            page.goto(self.url("/heard/"))
            until(page, f"{READY} && {READY}.microphone")
            page.click("#learn")
            until(page, "document.getElementById('learned').textContent.includes('name')")
            strike(page, 10, apart_ms=350, how="sound")
            rest(page, 4.5)
            page.fill("#instrument", "Block")
            page.click("#learn")
            page.wait_for_selector("text=10 strokes")
            return page.inner_text("#heard")

        self.assertIn("Block", self.browse(learn))
        self.assertEqual(self.faults, [])

    def test_the_round_trip_is_measured_and_kept(self) -> None:
        choose(by="stand-in", sound="wood", bleed_db=-25.0, delay_ms=120.0)

        def measure() -> str:
            self.page.goto(self.url("/heard/"))
            until(self.page, f"{READY} && {READY}.microphone")
            self.page.click("#round-trip")
            until(self.page, "document.getElementById('measured').innerText.includes('kept')", seconds=120)
            return text_of(self.page, "#measured")

        self.assertIn("120.0", self.browse(measure))
        delay = Delay.objects.get()
        self.assertAlmostEqual(delay.delay_ms, 120.0, delta=0.3)
        self.assertTrue(delay.low_ms - 0.05 <= 120.0 <= delay.high_ms + 0.05)


class MissingTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def heard_by_keys(self, script: str, said: str) -> None:
        """The page says what is missing, and keys make a take all the same."""
        choose(by="microphone")

        def play() -> str:
            page = self.page
            page.add_init_script(script)
            begin(page, self.url(words(cycles=80)))
            until(page, "document.getElementById('level').innerText.trim() !== ''")  # the browser answers by and by
            problem = text_of(page, "#level")
            for _ in range(6):
                page.keyboard.press("Space")
                pass_time(page, 0.15, "between two strokes")
            page.keyboard.press("Escape")
            wait_for_reading(page)
            return problem

        self.assertIn(said, self.browse(play))
        take = Take.objects.get()
        self.assertEqual((take.input, take.hearing.by, len(take.reading.onsets_s or [])), ("keys", "keys", 6))

    def test_no_permission(self) -> None:
        self.heard_by_keys(REFUSED, "The browser may not use the microphone")

    def test_no_device(self) -> None:
        self.heard_by_keys(NO_DEVICE, "No microphone is here. Keys and touch are heard meanwhile.")

    def test_a_microphone_that_is_pulled_out_in_mid_take(self) -> None:
        choose(by="microphone")

        def play() -> str:
            page = self.page
            page.add_init_script(LOSES)
            begin(page, self.url(words(cycles=80)))
            until(page, "giusto.page.next >= 1")
            page.keyboard.press("Space")  # no note while the microphone hears
            page.evaluate("window.pull()")
            for _ in range(5):
                page.keyboard.press("Space")
                pass_time(page, 0.12, "between two strokes")
            until(page, "document.getElementById('status').innerText.includes('microphone is gone')")
            page.keyboard.press("Escape")
            return wait_for_reading(page)

        self.browse(play)
        take = Take.objects.get()
        self.assertEqual((take.input, take.reading.sources.count("space")), ("microphone", 5))

    def test_no_midi(self) -> None:
        choose(by="midi")

        def play() -> str:
            self.page.add_init_script("navigator.requestMIDIAccess = undefined")
            self.page.goto(self.url(words()))
            until(self.page, READY)
            return text_of(self.page, "#level")

        self.assertIn("This browser knows no MIDI. Keys and touch", self.browse(play))


class MidiTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def test_a_keyboard_with_velocity_chords_and_another_channel(self) -> None:
        choose(by="stand-in-midi", channel=1)

        def play() -> None:
            page = self.page
            begin(page, self.url(words(cycles=80)))
            page.evaluate("giusto.plan.notes_s.length = 0")  # played by hand here
            zero_ms = page.evaluate("giusto.page_ms(0)")
            stamps = [zero_ms + 1500 + 187.5 * k for k in range(8)]
            page.evaluate(
                """(stamps) => {
                  const keyboard = giusto.hearing.midi.standIn;
                  for (const [k, at] of stamps.entries()) {
                    keyboard.send([0x90, 60, 100], at);
                    keyboard.send([0x90, 64, 120], at + 12);
                    keyboard.send([0x93, 64, 120], at + 90);
                  }
                }""",
                stamps,
            )
            page.keyboard.press("Escape")
            wait_for_reading(page)

        self.browse(play)
        take = Take.objects.get()
        onsets_s = [
            at
            for at, source in zip(take.reading.onsets_s, take.reading.sources, strict=True)
            if source.startswith("note:")
        ]
        steps_ms = 1000 * np.diff(onsets_s[-8:])
        np.testing.assert_allclose(steps_ms, 187.5, rtol=0, atol=0.5)
        self.assertAlmostEqual((take.reading.strengths or [0])[-1], 120 / 127, delta=0.001)

    def test_two_instruments_at_once_and_a_kit_on_its_channel(self) -> None:
        """Each note says what it is of: percussion on channel 10, the second instrument by its number."""
        choose(by="midi")

        def play() -> None:
            page = self.page
            page.add_init_script(TWO_PORTS)
            begin(page, self.url(words(cycles=80)))
            page.evaluate(
                """() => {
                  const at = performance.now() - 50;
                  const send = (port, data, later) => {
                    const event = new Event("midimessage");
                    Object.defineProperties(event, { data: { value: data }, timeStamp: { value: at + later } });
                    window.ports[port].dispatchEvent(event);
                  };
                  send(0, [0x99, 38, 90], 0);
                  send(1, [0x90, 60, 70], 40);
                }"""
            )
            page.keyboard.press("Escape")
            wait_for_reading(page)

        self.browse(play)
        notes = [note for batch in Take.objects.get().batches.all() for note in batch.notes]
        self.assertEqual([note["source"] for note in notes], ["drum:38", "note:60/2"])
        self.assertEqual(self.faults, [])

    def test_unplugged_in_mid_take(self) -> None:
        choose(by="stand-in-midi")

        def play() -> None:
            page = self.page
            begin(page, self.url(words(cycles=80)))
            page.evaluate(
                """() => {
                  const { midi } = giusto.hearing;
                  midi.standIn.strike(performance.now());
                  midi.standIn.state = "disconnected";
                  midi.access.dispatchEvent(new Event("statechange"));
                }"""
            )
            until(page, "document.getElementById('status').innerText.includes('unplugged')")
            page.keyboard.press("Space")
            page.keyboard.press("Escape")
            wait_for_reading(page)

        self.browse(play)
        take = Take.objects.get()
        self.assertIn("space", take.reading.sources)

    def test_strokes_on_today_begin_the_day(self) -> None:
        choose(by="stand-in-midi")

        def play() -> str:
            page = self.page
            page.goto(self.url("/today/"))
            page.keyboard.press("2")  # a routine that is ready
            page.wait_for_load_state()
            until(page, f"{READY} && document.querySelector('.minute-rule')")
            strike(page, 3, apart_ms=400, how="midi")
            pass_time(page, 4.0, "three start nothing, and then there is a rest")
            self.assertIn("/today/", page.url)  # three start nothing
            page.route(re.compile(r"/strokes/\?"), lambda asked: asked.abort(), times=4)  # at first nobody answers
            strike(page, 4, apart_ms=400, how="midi")
            until(page, "globalThis.giusto?.page?.next >= 1")
            return str(page.url)

        self.assertIn("/play/", self.browse(play))

    def test_a_pad_that_is_played_as_the_instrument_is_refused(self) -> None:
        choose(by="stand-in-midi")

        def go() -> tuple[str, str]:
            page = self.page
            page.goto(self.url("/heard/"))
            until(page, f"{READY} && {READY}.midi")
            hit = "(note) => giustoHears.midi.standIn.strike(performance.now(), 0.6, note)"
            for _ in range(3):
                page.evaluate(hit, 60)
            page.click("[data-learn=again]")
            page.evaluate(hit, 60)
            said = text_of(page, "[data-learn=again]")
            page.click("[data-learn=again]")
            page.evaluate(hit, 40)
            until(page, "document.querySelector('[data-learn=again]').innerText.includes('note 40')")
            return said, text_of(page, "[data-learn=again]")

        said, chosen = self.browse(go)
        self.assertIn("that is what you play", said)
        self.assertEqual(Ear.objects.get().pads, {"again": "note:40"}, chosen)

    def test_playing_on_starts_nothing(self) -> None:
        """Eighths that never stop begin no take: four of them after a rest do, and with one touch not even those."""
        choose(by="stand-in-midi")

        def play() -> tuple[str, str]:
            page = self.page
            page.goto(self.url(words(cycles=2)))
            until(page, READY)
            page.evaluate(
                """() => {
                  const strike = () => giustoHears.midi.standIn.strike(performance.now());
                  window.eighths = setInterval(strike, 317);
                }"""
            )
            pass_time(page, 8, "eighths that never stop")
            played_on = machine(page)
            page.evaluate("clearInterval(window.eighths)")
            self.assertIn("Two seconds of rest, then four even strokes: the take begins.", text_of(page, ".strokes"))
            page.click("text=Not today")
            until(page, f"document.querySelector('.strokes').innerText.includes('nothing today') && {READY}")
            pass_time(page, 3.5, "a rest")
            strike(page, 4, apart_ms=400, how="midi")
            pass_time(page, 1.5, "four that begin nothing")
            return played_on, machine(page)

        self.assertEqual(self.browse(play), ("idle", "idle"))

    def test_a_session_without_touching_the_screen(self) -> None:
        """Four strokes begin, a pad stops, the reading hears: a harder one by its pad, again by strokes."""
        choose(by="stand-in-midi", pads={"harder": "note:40", "stop": "note:41"})

        def hit(note: int) -> None:
            self.page.evaluate("(note) => giustoHears.midi.standIn.strike(performance.now(), 0.6, note)", note)

        def counted() -> None:
            until(self.page, READY)
            pass_time(self.page, 3.5, "a rest that the page hears, before the first of four strokes in the past")
            strike(self.page, 4, apart_ms=400, how="midi")
            self.page.wait_for_url("**/play/**")
            until(self.page, "globalThis.giusto?.page?.next >= 1")

        def session() -> list[str]:
            page = self.page
            open_by_key(page, self.url(words(cycles=40)))
            counted()
            until(page, "giusto.page.next >= 6")
            hit(41)
            wait_for_reading(page)
            counted()  # strokes lead to what is next
            until(page, "giusto.page.next >= 6")
            hit(41)
            wait_for_reading(page)
            until(page, READY)
            hit(40)
            until(page, "location.pathname === '/play/'")
            counted()
            until(page, "giusto.page.next >= 6")
            hit(41)
            wait_for_reading(page)
            return []

        self.browse(session)
        self.assertEqual(Take.objects.filter(deleted_at=None).count(), 3)
        self.assertEqual(self.faults, [])

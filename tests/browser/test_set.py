"""Setting the click in a real browser: by keyboard alone, by touch, with a screen reader's eyes."""

from __future__ import annotations

import json

import numpy as np
from django.test import tag
from playwright.sync_api import Page

from giusto.click.said import LEAD_S
from giusto.click.voice import LENGTH_S
from giusto.schedule import Schedule
from studio.drills.models import OwnDrill
from studio.takes.models import Take
from tests.browser.scripts import CAPTURE_CLICKS, STEADY_CLOCK, WATCH_CHANGES
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import (
    LATE_MS,
    OVER,
    begin,
    changes_in_silences,
    pass_time,
    played_plan,
    stay,
    text_of,
    until,
)

setUpModule = SERVED.open

SEEN_LATE_MS = LATE_MS + 90  # a click that is seen goes after 90 ms, as long as it would sound


def tab_to(page: Page, name: str) -> None:
    """Press Tab until a word of the sentence has the focus."""
    for _ in range(120):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.getAttribute('name')") == name:
            return
    raise AssertionError(f"Tab does not lead to {name}")


def said(page: Page, text: str) -> None:
    """Wait until the facts beside the sheet say something."""
    try:
        until(page, f"document.getElementById('result').textContent.includes({json.dumps(text)})")
    except AssertionError:
        raise AssertionError(f"not said: {text}; at {page.url} {page.inner_text('#result')}") from None


# In one go: the step may be drawn anew at any moment.
MIDDLE = """(selector) => {
  const element = document.querySelector(selector);
  element.scrollIntoViewIfNeeded();
  const { x, y, width, height } = element.getBoundingClientRect();
  return [x + width / 2, y + height / 2];
}"""


def middle(page: Page, selector: str) -> tuple[float, float]:
    """Return where a finger would touch something."""
    x, y = page.evaluate(MIDDLE, selector)
    return float(x), float(y)


class KeyboardTests(ServedTestCase):
    @tag("sound")
    def test_composed_played_and_heard_to_the_sample(self) -> None:
        """By keyboard alone from the shelf to the sound: on two and four, dropping out, at 360."""

        def compose() -> tuple[Schedule, list[int], float, float]:
            # The worklet's module is a blob, which the policy rightly forbids: relaxed here only.
            context = self.browser.new_context(bypass_csp=True)
            page = context.new_page()
            page.add_init_script(CAPTURE_CLICKS)
            stay(page)
            page.goto(self.url("/set/"))
            page.keyboard.press("4")  # the family of sparse clicks
            page.wait_for_url("**/set/?drill=quarters-100")
            tab_to(page, "bpm")
            page.keyboard.type("360")
            tab_to(page, "on")
            page.keyboard.press("ArrowRight")
            tab_to(page, "drop")
            page.keyboard.press("ArrowRight")
            until(page, "document.querySelector('#words [name=heard]') !== null")
            tab_to(page, "heard")
            page.keyboard.type("1")
            tab_to(page, "silent")
            page.keyboard.type("1")
            tab_to(page, "cycles")
            page.keyboard.type("6")
            page.keyboard.press("Enter")  # takes the word, and leaves it
            said(page, "7 silences of 0.3 to 1.0 s.")
            until(page, "location.search.includes('cycles=6')")
            page.keyboard.press("Enter")
            page.wait_for_url("**/play/**")
            page.keyboard.press("Space")
            until(
                page,
                "window.heardFrames.length >= JSON.parse(document.getElementById('plan').textContent).clicks.length",
            )
            found = page.evaluate("[window.heardFrames, giusto.zero_s, giusto.context.sampleRate]")
            plan = played_plan(page)
            context.close()
            return plan, *found

        plan, heard, zero_s, rate_hz = self.browse(compose)
        clicks, drill = plan.drill.clicks, plan.drill
        self.assertEqual((drill.tempo.bpm, clicks.on, drill.cycles), (360, ("2", "4"), 6))
        self.assertEqual(clicks.silence.model_dump(), {"kind": "fixed", "heard": 1, "silent": 1})
        asked = round(zero_s * rate_hz) + np.round(plan.seconds(plan.clicks.tick) * rate_hz).astype(int)
        self.assertEqual(heard, asked.tolist())

    def test_keys_of_the_page(self) -> None:
        def press() -> list[str]:
            page = self.page
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            found = []
            for key, word, value in (
                ("+", "bpm", "97"),
                (">", "bpm", "102"),
                ("-", "bpm", "101"),
                ("]", "silent", "3"),
                (".", "grid", "3"),
                (",", "grid", "2"),
            ):
                page.keyboard.press(key)
                until(page, f"document.querySelector('#words [name={word}]').value === '{value}'")
                found.append(page.evaluate("document.querySelector('[name=bpm]').value"))
            return found

        self.assertEqual(self.browse(press), ["97", "102", "101", "101", "101", "101"])
        self.assertEqual(self.faults, [])

    def test_ten_quick_steps_are_ten_steps(self) -> None:
        def press() -> str:
            page = self.page
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            for _ in range(10):
                page.keyboard.press("+")
            until(page, "document.querySelector('[name=bpm]').value === '106'")
            pass_time(page, 0.3, "no late answer takes a step back")
            return str(page.evaluate("document.querySelector('[name=bpm]').value"))

        self.assertEqual(self.browse(press), "106")
        self.assertEqual(self.faults, [])

    def test_no_stale_word_is_left_behind(self) -> None:
        """A beat of an eighth makes the notes to it sixteenths, in the sentence as beside it."""

        def change() -> str:
            page = self.page
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            page.select_option("[name=beat]", "1/8")
            said(page, "sixteenths to play")
            return str(page.evaluate("document.querySelector('[name=grid]').selectedOptions[0].text"))

        self.assertEqual(self.browse(change), "sixteenths")

    def test_left_and_right_stay_on_the_word(self) -> None:
        def press() -> tuple[str, str]:
            page = self.page
            page.goto(self.url("/set/"))
            tab_to(page, "on")
            for _ in range(2):
                page.keyboard.press("ArrowRight")
            until(page, "location.search.includes('on=offbeats')")
            page.keyboard.press("ArrowLeft")
            until(page, "location.search.includes('on=two-four')")
            return page.evaluate("document.activeElement.name"), page.evaluate(
                "document.getElementById('result').textContent"
            )

        word, text = self.browse(press)
        self.assertEqual(word, "on")
        self.assertIn("silences", text)


class JustTests(ServedTestCase):
    def test_just_the_click_runs_until_it_is_stopped_and_keeps_nothing(self) -> None:
        """A change of tempo acts at its next click; six quick touches of +5 are +30."""

        def run() -> tuple[list[str], float, float, bool]:
            page = self.page
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            page.keyboard.press("k")
            until(page, "document.querySelector('[data-sounding]') && giustoJust.beat > 0")
            words = [text_of(page, "#just"), text_of(page, ".just-tempo")]
            before = page.evaluate("giustoJust.pattern.beat_s")
            for _ in range(6):
                page.mouse.click(*middle(page, "#tempo-4"))  # Playwright's own click tries anew where it is drawn anew
            until(page, "document.querySelector('[name=bpm]').value === '126'")
            until(page, "giustoJust.pattern.beat_s < 0.5 && document.querySelector('[data-sounding]')")
            words.append(text_of(page, ".just-tempo"))
            after = page.evaluate("giustoJust.pattern.beat_s")
            page.keyboard.press("k")
            until(page, "!document.querySelector('[data-sounding]')")
            return words, before, after, bool(page.evaluate("giustoJust.context.state === 'closed'"))

        words, before, after, is_silent = self.browse(run)
        self.assertIn("Stop the click", words[0])
        self.assertEqual(words[1:], ["96", "126"])
        self.assertAlmostEqual(before, 60 / 96, places=4)
        self.assertAlmostEqual(after, 60 / 126, places=4)
        self.assertTrue(is_silent)
        self.assertEqual(Take.objects.count(), 0)
        self.assertEqual(self.faults, [])


class StepTests(ServedTestCase):
    def test_a_step_drawn_anew_under_the_pointer_is_taken(self) -> None:
        """Pressed while the one before is being drawn, let go when it is: two steps."""

        def press() -> str:
            page = self.page
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            page.mouse.move(*middle(page, "#tempo-4"))
            page.evaluate("document.getElementById('tempo-4').click()")
            page.mouse.down()
            until(page, "document.querySelector('[name=bpm]').value === '101'")
            page.mouse.up()
            until(page, "document.querySelector('[name=bpm]').value !== '101'")
            page.mouse.click(*middle(page, "h1"))  # elsewhere: no step
            page.wait_for_load_state("networkidle")
            return str(page.evaluate("document.querySelector('[name=bpm]').value"))

        self.assertEqual(self.browse(press), "106")
        self.assertEqual(self.faults, [])


# Every sound that begins, and when: what the page hands to the audio clock.
BEGINNINGS = """
window.begun = [];
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (at, from = 0) {
  window.begun.push([this.buffer.duration, at, from]);
  return start.call(this, at, from);
};
"""


class CountedTests(ServedTestCase):
    def test_counted_each_click_has_its_word_whose_onset_comes_with_it(self) -> None:
        """Chosen while it sounds, it counts from the next click on; a word begins its lead before its click."""

        def run() -> tuple[list[list[float]], list[str]]:
            page = self.page
            page.add_init_script(BEGINNINGS)
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            page.keyboard.press("k")
            until(page, "document.querySelector('[data-sounding]') && giustoJust.beat > 0")
            page.evaluate("document.getElementById('fold-sound').open = true")
            page.select_option("#id_delivery_accent_voice", "pin")
            until(page, "document.getElementById('delivery').dataset.accentVoice === 'pin'")
            page.select_option("#id_delivery_counted", "yes")
            until(page, "'words:one' in giustoJust.sounds")
            page.evaluate("window.begun.length = 0")
            until(page, "window.begun.length >= 6")
            page.keyboard.press("k")
            return page.evaluate("window.begun"), page.evaluate("Object.keys(giustoJust.sounds)")

        begun, sounds = self.browse(run)
        self.assertLessEqual({"words:one", "words:two", "words:three", "words:four"}, set(sounds))
        words = [at for lasts, at, _ in begun if lasts > LENGTH_S + 0.1]
        clicks = [at for lasts, at, _ in begun if lasts < LENGTH_S + 0.1]
        self.assertGreaterEqual(len(words), 2)
        for at in words:
            self.assertLess(min(abs(at + LEAD_S - click) for click in clicks), 1e-6)
        self.assertEqual(self.faults, [])


class TouchTests(ServedTestCase):
    def test_places_are_turned_by_a_touch_and_the_sentence_follows(self) -> None:
        def touch() -> tuple[str, str]:
            context = self.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
            page = context.new_page()
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            page.tap("#fold-accents > summary")
            page.tap("[aria-label='Click at 1: on']")
            page.wait_for_selector("[aria-label='Click at 1: off']")
            page.tap("[aria-label='Click at 3: on']")
            page.wait_for_selector("[aria-label='Click at 3: off']")
            word = page.evaluate("document.querySelector('[name=on]').value")
            page.tap("[aria-label='Note at 1+1/2: on']")
            page.wait_for_selector("[aria-label='Note at 1+1/2: off']")
            notes = page.evaluate("document.querySelector('[name=notes]').value")
            context.close()
            return word, notes

        self.assertEqual(self.browse(touch), ("two-four", "1, 2, 2+1/2, 3, 3+1/2, 4, 4+1/2"))

    def test_tapped_tempo_goes_into_the_sentence(self) -> None:
        def tap() -> tuple[str, str]:
            page = self.page
            page.goto(self.url("/set/"))
            box = page.locator("#tap-tempo").bounding_box()
            assert box
            session = page.context.new_cdp_session(page)
            start_s = page.evaluate("performance.timeOrigin + performance.now()") / 1000
            for beat in range(6):
                at = {"x": box["x"] + 5, "y": box["y"] + 5, "button": "left", "clickCount": 1}
                stamp = start_s + 0.5 * beat
                session.send("Input.dispatchMouseEvent", {**at, "type": "mousePressed", "timestamp": stamp})
                session.send("Input.dispatchMouseEvent", {**at, "type": "mouseReleased", "timestamp": stamp})
            until(page, "document.getElementById('tapped').innerText.includes('6 taps')")
            until(page, "location.search.includes('bpm=120')")
            return page.evaluate("document.querySelector('[name=bpm]').value"), text_of(page, "#tapped")

        bpm, text = self.browse(tap)
        self.assertEqual(bpm, "120")
        self.assertRegex(text, r"^120\.0, between 1\d\d\.\d and 120\.\d, 6 taps\.$")

    def test_a_drill_is_kept_and_a_file_brought_in(self) -> None:
        def keep() -> str:
            page = self.page
            page.goto(self.url("/set/?drill=seven"))
            page.click("#fold-keep > summary")
            page.fill("#id_keep_name", "Seven for Odo")
            page.click("text=Keep this drill")
            page.wait_for_selector("text=Kept: Seven for Odo.")
            page.click("#fold-keep > summary")
            with page.expect_download() as caught:
                page.click("#fold-keep a:text-is('drill file')")
            page.goto(self.url("/set/own/import/"))
            page.set_input_files("#files", caught.value.path())
            page.click("button:has-text('Bring in')")
            page.wait_for_selector("text=Kept on your shelf:")
            return page.inner_text("main")

        self.assertIn("Seven for Odo 2", self.browse(keep))
        self.assertEqual(OwnDrill.objects.count(), 2)
        self.assertEqual(self.faults, [])


@tag("sound")
class ReachTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def test_a_seen_click_and_spoken_counts_keep_still_in_a_silence(self) -> None:
        def play() -> tuple[Schedule, list[tuple[float, str, str]], list[str]]:
            page = self.page
            page.goto(self.url("/set/"))
            page.click("#fold-sound > summary")
            page.select_option("#id_delivery_seen", "yes")
            until(page, "document.querySelector('#id_delivery_seen').value === 'yes'")
            page.wait_for_load_state("networkidle")
            page.add_init_script(WATCH_CHANGES)
            stay(page)
            begin(page, self.url("/play/?drill=dropped-doubling&bpm=300&cycles=8"))
            plan = played_plan(page)
            until(page, OVER)
            changes = page.evaluate("window.changes")
            shown = page.evaluate("[...document.querySelectorAll('.counts')].map((c) => c.hidden)")
            return plan, changes, shown

        for _ in range(3):  # as in test_take: a stalled machine is late now and then
            plan, changes, hidden = self.browse(play)
            during, _ = changes_in_silences(plan, changes, late_ms=SEEN_LATE_MS)
            seen = [at for at, _, target in changes if target == "seen"]
            clicks_s = plan.seconds(plan.clicks.tick)
            off_s = max(float(np.min(np.abs(clicks_s - at))) for at in seen)
            if not during and off_s < SEEN_LATE_MS / 1000:
                break
        self.assertEqual(during, [])
        self.assertLess(off_s, SEEN_LATE_MS / 1000)
        self.assertGreater(len(seen), 8)
        self.assertEqual(sorted(hidden), [False, True])  # one turn of the part at a time

"""A whole take through the real pages: sound, notes, stillness, loss of the server."""

from __future__ import annotations

import re
import time
from contextlib import nullcontext
from urllib.parse import urlencode

import numpy as np
from django.test import tag
from playwright.sync_api import Error, Page

from giusto.drill import validate
from giusto.practice.ceiling import probe_of
from giusto.schedule import Schedule, schedule
from studio.accounts.models import local_player
from studio.drills.delivery import delivery_plan
from studio.drills.models import delivery_of
from studio.drills.sentence.codec import query, words_of
from studio.takes.models import Batch, Take
from tests.browser.scripts import CAPTURE_CLICKS, STEADY_CLOCK, WATCH_CHANGES
from tests.browser.served import PATIENCE_S, SERVED, ServedTestCase
from tests.drills import plain

setUpModule = SERVED.open

PLAYED = "!globalThis.giusto || giusto.page.next >= giusto.page.plan.clicks.length"  # or it has gone on
# The last click has come, or the take has ended without it on a machine that is late.
OVER = """
    giusto.page.next >= giusto.page.plan.clicks.length - 1
    || document.getElementById("stage").dataset.machine !== "playing"
"""
# What was played so far is with the server.
ALL_SENT = """
    giusto.ledger.take.count > 0 && giusto.ledger.waiting().length === 0
    && giusto.capture.isEmpty
"""
EARLY_MS = 1
LATE_MS = 150  # the page allows itself 80 after a click (static/js/page.js); the rest is a busy machine's


def words(**changes: object) -> str:
    """Return the address of a drill of the shelf: by default a short one with two silences."""
    return "/play/?" + urlencode({"drill": "two-heard-two-silent", "bpm": 160, "grid": 2, "cycles": 8, **changes})


def played_plan(page: Page) -> Schedule:
    """Return the schedule of the drill that the page plays."""
    return schedule(validate(page.evaluate("JSON.parse(document.getElementById('plan').textContent).drill")))


def begin(page: Page, url: str) -> None:
    """Open the play page and start by a real click."""
    page.goto(url)
    page.click("#tap")
    until(page, "globalThis.giusto?.page?.next >= 1")


def stay(page: Page) -> None:
    """Keep a page where it is when its take is over, to be looked at: the server never answers that it has ended."""
    page.route("**/end/", lambda _: None)


def until(page: Page, expression: str, *, seconds: float = PATIENCE_S) -> None:
    """Wait until something holds; Playwright's own way would need eval, which the policy forbids."""
    deadline = time.monotonic() + seconds
    while not _holds(page, expression):
        if time.monotonic() > deadline:
            shown = " ".join(str(page.evaluate("document.body.innerText")).split())
            raise AssertionError(f"not within {seconds} s: {expression}; {page.url} shows: {shown}")
        page.wait_for_timeout(50)


def pass_time(page: Page, seconds: float, why: str) -> None:
    """Let time pass where that is what a test is about: something must not happen in it, or strokes stand apart."""
    if not why:
        raise ValueError("wait until something holds")
    page.wait_for_timeout(1000 * seconds)


def _holds(page: Page, expression: str) -> bool:
    """Ask the page; one that is just going to another place, or is not all there yet, holds nothing."""
    try:
        return bool(page.evaluate(expression))
    except Error as error:
        if not any(word in str(error) for word in ("destroyed", "properties of null")):
            raise
        return False


def press_at(page: Page, times_s: np.ndarray) -> list[float]:
    """Send key presses stamped at drill times, by the page's own clocks; return the page times, ms."""
    session = page.context.new_cdp_session(page)
    zero_ms = page.evaluate("giusto.page_ms(0) + performance.timeOrigin")
    for index, time_s in enumerate(times_s.tolist()):
        code, key = (("Space", " "), ("KeyJ", "j"), ("KeyF", "f"))[index % 3]
        stamp_s = (zero_ms + 1000 * time_s) / 1000
        press = {"type": "keyDown", "code": code, "key": key, "timestamp": stamp_s}
        session.send("Input.dispatchKeyEvent", press)
        session.send("Input.dispatchKeyEvent", {**press, "type": "keyUp"})
    origin_ms = page.evaluate("performance.timeOrigin")
    return [zero_ms - origin_ms + 1000 * time_s for time_s in times_s.tolist()]


def wait_for_reading(page: Page) -> str:
    """Wait until the reading is shown and return its verdict."""
    page.wait_for_url(re.compile(r"/takes/[0-9a-f-]+/$"))
    until(page, "!(document.querySelector('h1')?.innerText ?? 'being read').includes('being read')")  # heard first
    return text_of(page, "h1")


def text_of(page: Page, selector: str) -> str:
    """Return the text of the first such element once it is there, asked of the page itself.

    Right after the take's page has gone to its reading, Playwright's own selectors now and then
    wait for ever on an element that is there.
    """
    until(page, f"document.querySelector({selector!r}) !== null")
    return str(page.evaluate("(selector) => document.querySelector(selector).innerText", selector))


def changes_in_silences(
    plan: Schedule, changes: list[tuple[float, str, str]], *, late_ms: float = LATE_MS
) -> tuple[list[tuple[float, str, str]], int]:
    """Return what changed in silences, and at how many of their first clicks something did."""
    times_s = np.array([at for at, _, _ in changes])
    during: list[tuple[float, str, str]] = []
    on_time = 0
    for silence in plan.silences:
        start_s, end_s = float(plan.seconds(silence.start_tick)), float(plan.seconds(silence.end_tick))
        inside = (times_s > start_s + late_ms / 1000) & (times_s < end_s - EARLY_MS / 1000)
        during += [changes[i] for i in np.flatnonzero(inside)]
        on_time += bool(np.any(np.abs(times_s - start_s) < late_ms / 1000))
    return during, on_time


class TakeTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def test_a_probe_ends_by_itself_once_notes_and_click_have_parted(self) -> None:
        """Five cycles are played, of thirty-one: no key, no touch, and the page goes to what is known."""
        probe = probe_of(validate(plain(bpm=320, beats=2, grid=1, silence=None)))
        assert probe

        def play() -> tuple[str, str]:
            page = self.page
            begin(page, self.url(f"/play/?{query(words_of(probe))}"))
            plan = played_plan(page)
            asked_s = plan.seconds(plan.notes.tick)
            press_at(page, asked_s[plan.notes.cycle <= 5])
            return wait_for_reading(page), page.url

        verdict, address = self.browse(play)
        take = Take.objects.get()
        self.assertIn(str(take.pk), address)
        self.assertEqual(take.ended_how, "complete")
        self.assertIn("You kept all that you played, up to", verdict)
        self.assertLess(len(take.reading.onsets_s), 20)

    def test_louder_and_softer_by_keys_while_it_plays(self) -> None:
        def play() -> list[float]:
            page = self.page
            begin(page, self.url(words(cycles=40)))
            found = [page.evaluate("giusto.clicker.ways.click.gain.value")]
            for key in ("0", "9", "9", "9", "9"):  # faint is the least
                with page.expect_response("**/loudness/") if len(found) < 4 else nullcontext():
                    page.keyboard.press(key)
                found.append(page.evaluate("giusto.clicker.ways.click.gain.value"))
            page.keyboard.press("Escape")
            page.wait_for_url(re.compile("/(set|takes|today)/"))
            return found

        levels = dict(delivery_plan(delivery_of(local_player()))["levels"])
        soft, plain, faint = (round(levels[name]["click"], 4) for name in ("soft", "plain", "faint"))
        found = [round(gain, 4) for gain in self.browse(play)]
        self.assertEqual(found, [soft, plain, soft, faint, faint, faint])
        self.assertEqual(delivery_of(local_player()).level, "faint")

    def test_stamped_keys_come_out_with_the_errors_they_had(self) -> None:
        """A drag of 2 % in each silence, known errors of the hand; every figure is checked."""

        def play() -> tuple[str, Schedule, np.ndarray]:
            page = self.page
            begin(page, self.url(words(bpm=300)))
            plan = played_plan(page)
            asked_s = plan.seconds(plan.notes.tick)
            rng = np.random.default_rng(3)
            late_s = rng.normal(0, 0.003, asked_s.size) - 0.02
            for silence in plan.silences:
                start_s, end_s = plan.seconds(silence.start_tick), plan.seconds(silence.end_tick)
                inside = (asked_s > start_s) & (asked_s <= end_s)
                late_s[inside] += 0.02 * (asked_s[inside] - start_s)
            stamps_ms = np.array(press_at(page, asked_s + late_s))
            heard_s = np.array(page.evaluate(f"{stamps_ms.tolist()}.map(window.steady)"))
            zero_s = page.evaluate("giusto.zero_s")
            until(page, PLAYED)
            page.keyboard.press("Escape")
            return wait_for_reading(page), plan, heard_s - zero_s

        verdict, plan, truth_s = self.browse(play)
        take = Take.objects.get()
        self.assertEqual((take.input, take.reading.onsets_s is None), ("keys", False))
        self.assertIn(take.ended_how, ("stopped", "complete"))  # a stalled machine comes to the end before Escape
        off_ms = 1000 * (np.array(take.reading.onsets_s) - truth_s)
        self.assertLess(off_ms.std(), 0.2)
        self.assertLess(abs(off_ms.mean()), 0.5)
        spec = take.reading.spec
        self.assertEqual(spec["onsets"]["matched"], len(plan.notes))
        for silence, span in zip(spec["silences"], plan.silences, strict=True):
            length_ms = 1000 * float(plan.seconds(span.end_tick - span.start_tick))
            self.assertAlmostEqual(silence["drift_ms"], 0.02 * length_ms, delta=6)
            self.assertEqual(silence["outcome"], "late")
        self.assertEqual(verdict, "You dragged in every silence.")
        self.assertEqual({note["source"] for b in take.batches.all() for note in b.notes}, {"space", "j", "f"})
        self.assertEqual(self.faults, [])
        self.assertEqual([url for url in self.requests if not url.startswith(self.site.address)], [])

    @tag("sound")
    def test_clicks_stand_on_the_schedule_to_the_sample(self) -> None:
        def play() -> tuple[Schedule, list[int], float, float]:
            page = self.page
            # The worklet's module is a blob, which the policy rightly forbids: relaxed here only.
            context = self.browser.new_context(bypass_csp=True)
            page = context.new_page()
            page.add_init_script(CAPTURE_CLICKS)
            stay(page)
            begin(page, self.url(words(bpm=400, cycles=6)))
            until(page, "window.heardFrames.length >= giusto.page.plan.clicks.length")
            found = page.evaluate("[window.heardFrames, giusto.zero_s, giusto.context.sampleRate]")
            plan = played_plan(page)
            context.close()
            return plan, *found

        plan, heard, zero_s, rate_hz = self.browse(play)
        zero_frame = round(zero_s * rate_hz)
        asked = zero_frame + np.round(plan.seconds(plan.clicks.tick) * rate_hz).astype(int)
        self.assertEqual(heard, asked.tolist())

    @tag("sound")
    def test_nothing_changes_in_a_silence(self) -> None:
        def play() -> tuple[Schedule, list[tuple[float, str, str]], str]:
            page = self.page
            page.add_init_script(WATCH_CHANGES)
            stay(page)
            url = self.url(words(bpm=300, by="simulated", lean="-1", skill="fair"))
            begin(page, url)
            plan = played_plan(page)
            page.keyboard.press("d")  # waits for a click, whenever it is pressed
            until(page, OVER)
            changes, last = page.evaluate("[window.changes, document.getElementById('last').innerText]")
            return plan, changes, last

        for _ in range(3):  # a machine that stalls is late now and then, a fault of the page is late each time
            plan, changes, last = self.browse(play)
            during, on_time = changes_in_silences(plan, changes)
            if not during and on_time and "became" in last:
                break
        self.assertEqual(during, [])
        # The page says "Alone" on the last click that sounds; where a busy machine is too late for
        # that it leaves the page as it is, so not each silence can be asked for.
        self.assertGreater(on_time, 0)
        self.assertIn("became", last)

    def test_the_server_dies_and_comes_back_in_mid_take(self) -> None:
        sent: list[float] = []

        def start() -> Schedule:
            begin(self.page, self.url(words(cycles=80)))  # it must not end by itself
            plan = played_plan(self.page)
            sent.extend(press_at(self.page, plan.seconds(plan.notes.tick)[:20]))
            until(self.page, ALL_SENT)
            return plan

        plan = self.browse(start)
        asked_s = plan.seconds(plan.notes.tick)
        self.site.stop()

        def go_on() -> str:
            sent.extend(press_at(self.page, asked_s[20:60]))
            pass_time(self.page, 0.9, "the player plays on without a server")
            sent.extend(press_at(self.page, asked_s[60:72]))
            self.page.keyboard.press("Escape")
            self.page.wait_for_selector("text=Giusto does not answer")
            return text_of(self.page, "#word")

        self.assertEqual(self.browse(go_on), "Kept")
        self.site.start()
        self.browse(wait_for_reading, self.page)
        take = Take.objects.get()
        self.assertEqual(take.reading.refusal, "")
        self.assertEqual(len(take.reading.onsets_s or []), 72)
        stamps = [note["at_ms"] for batch in take.batches.all() for note in batch.notes]
        np.testing.assert_allclose(stamps, sent, rtol=0, atol=0.2)  # none missing, none doubled

    def test_a_closed_tab_loses_nothing(self) -> None:
        def play_and_close() -> Schedule:
            page = self.new_page()
            begin(page, self.url(words()))
            plan = played_plan(page)
            self.site.stop()
            press_at(page, plan.seconds(plan.notes.tick)[:30])
            pass_time(page, 0.2, "less than a batch: what is open is kept all the same")
            page.close()
            return plan

        plan = self.browse(play_and_close)
        self.assertEqual(Batch.objects.count(), 0)
        self.site.start()
        self.browse(self.page.goto, self.url("/set/"))
        deadline = time.monotonic() + 20
        while not Take.objects.ended().exists() and time.monotonic() < deadline:
            time.sleep(0.1)
        take = Take.objects.get()
        self.assertEqual(take.ended_how, "broken")
        self.assertEqual(sum(len(b.notes) for b in take.batches.all()), 30)
        self.assertEqual(len(take.drill["clicks"]["on"]), len(plan.drill.clicks.on))

    def test_mouse_and_touch_are_notes_and_stopping_is_none(self) -> None:
        def play() -> None:
            page = self.page
            begin(page, self.url(words(cycles=80)))  # it must not end by itself
            box = page.locator("#tap").bounding_box()
            assert box
            session = page.context.new_cdp_session(page)
            point = {"x": box["x"] + 50, "y": box["y"] + 50}
            page.mouse.click(point["x"], point["y"])
            session.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [point]})
            session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
            stop = page.locator("#stop").bounding_box()
            assert stop
            page.mouse.move(stop["x"] + 5, stop["y"] + 5)
            page.mouse.down()
            wait_for_reading(page)

        self.browse(play)
        sources = [note["source"] for batch in Batch.objects.order_by("number") for note in batch.notes]
        self.assertEqual(sources, ["mouse", "touch"])
        self.assertEqual(Take.objects.get().ended_how, "stopped")

    def test_a_discarded_take_is_not_in_the_log(self) -> None:
        def play() -> None:
            page = self.page
            page.on("dialog", lambda dialog: dialog.accept())
            begin(page, self.url(words()))
            until(page, "giusto.page.next >= 1")
            page.keyboard.press("Backspace")
            page.wait_for_url("**/set/?**drill=two-heard-two-silent**")  # back at the drill, as it was

        self.browse(play)
        self.assertFalse(Take.objects.filter(deleted_at=None).exists())

    def test_simulated_player_from_the_sentence_to_the_log(self) -> None:
        """The whole way without hands: set the click by keyboard, play, read, find it in the log."""

        def play() -> tuple[str, str, str]:
            page = self.page
            page.goto(self.url("/set/?drill=two-heard-two-silent"))
            page.click("#fold-count > summary")
            page.select_option("[name=by]", "simulated")
            page.select_option("[name=lean]", "-2.5")
            page.select_option("[name=skill]", "practised")
            until(page, "['lean=-2.5', 'skill=practised'].every((said) => location.search.includes(said))")
            page.fill("[name=bpm]", "360")  # what is folded stays as it was said
            until(page, "location.search.includes('bpm=360')")
            page.fill("[name=cycles]", "4")
            page.wait_for_selector("text=8 beats = 1\u00a0s, once")
            page.keyboard.press("Escape")
            page.evaluate("document.activeElement.blur()")
            page.keyboard.press("Enter")
            page.wait_for_url("**/play/**")
            page.keyboard.press("Space")
            verdict = wait_for_reading(page)
            page.wait_for_url("**/takes/*/")
            page.click("#figures > summary")
            figures = text_of(page, "#figures .figures tbody")
            page.goto(self.url("/log/"))
            return verdict, figures, text_of(page, ".log-line")

        verdict, figures, line = self.browse(play)
        self.assertRegex(verdict, r"silence|close to call|can’t tell")
        self.assertIn("Tempo alone", figures)
        self.assertIn("simulated", line)
        take = Take.objects.get()
        self.assertEqual((take.ended_how, take.input), ("complete", "simulated"))
        self.assertEqual([note["source"] for b in take.batches.all() for note in b.notes], ["simulated"] * 40)
        self.assertEqual(self.faults, [])


class PageTests(ServedTestCase):
    def test_sheet_is_redrawn_and_faults_stand_in_the_sentence(self) -> None:
        def change() -> tuple[str, str, bool, int]:
            page = self.page
            page.goto(self.url("/set/"))
            page.fill("[name=cycles]", "8")
            page.wait_for_selector("text=5\u00a0s, twice")
            page.fill("[name=bpm]", "4")
            page.wait_for_selector("[role=alert]")
            fault = page.inner_text("[role=alert]")
            disabled = page.is_disabled("#result button")
            page.fill("[name=bpm]", "120")
            page.wait_for_selector("#drill svg.picture")
            wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
            return fault, page.url, disabled, wide

        fault, url, disabled, wide = self.browse(change)
        self.assertEqual(fault, "10 at least, please.")
        self.assertTrue(disabled)
        self.assertIn("bpm=120", url)
        self.assertLessEqual(wide, 0)
        self.assertEqual(self.faults, [])

"""What can go wrong while a take is played, in a real browser: nothing is lost, nothing hangs, the page says so."""

from __future__ import annotations

import time

import numpy as np
from django.utils import timezone
from playwright.sync_api import Page

from studio.takes.models import Batch, Take
from tests.browser.scripts import STEADY_CLOCK
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import (
    ALL_SENT,
    begin,
    pass_time,
    played_plan,
    press_at,
    text_of,
    until,
    wait_for_reading,
    words,
)

setUpModule = SERVED.open

LONG = {"cycles": 80}  # it must not end by itself
# The browser's database: never opens, refuses each write, or refuses some of them.
NEVER_OPENS = "IDBFactory.prototype.open = () => new EventTarget();"
REFUSES = """
window.refusing = true;
const transaction = IDBDatabase.prototype.transaction;
IDBDatabase.prototype.transaction = function (...wanted) {
  const made = transaction.apply(this, wanted);
  if (window.refusing && wanted[1] === "readwrite") made.abort();
  return made;
};
"""
# The clock on the wall, set back by some ms.
SET_BACK = """(back) => {
  const wall = Date;
  window.Date = new Proxy(wall, {
    construct: (made, given) => (given.length ? new made(...given) : new made(made.now() - back)),
    apply: (made) => new made(made.now() - back).toString(),
    get: (made, name) => (name === "now" ? () => made.now() - back : made[name]),
  });
}"""
# An audio clock that never moves.
STANDS_STILL = """
window.AudioContext = class extends window.AudioContext {
  getOutputTimestamp() { return { contextTime: 0, performanceTime: 0 }; }
};
"""
SOUNDS = """
window.started = 0;
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (...at) { window.started += 1; return start.apply(this, at); };
"""


def strike_evenly(page: Page, times: int = 4, apart_s: float = 0.4) -> None:
    """Strike the key of strokes so often, evenly by its stamps."""
    session = page.context.new_cdp_session(page)
    last_s = time.time()
    for number in range(times):
        press = {"type": "keyDown", "key": "j", "code": "KeyJ", "timestamp": last_s - (times - 1 - number) * apart_s}
        session.send("Input.dispatchKeyEvent", press)
        session.send("Input.dispatchKeyEvent", {**press, "type": "keyUp"})


def machine(page: Page) -> str:
    """Return the state of the play page."""
    return str(page.evaluate("document.getElementById('stage').dataset.machine"))


class StoreTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def play(self, script: str, *, allow_after: int | None = None) -> None:
        """Play forty notes with a database of this kind; from some note on it works again."""

        def work() -> None:
            page = self.page
            page.add_init_script(script)
            begin(page, self.url(words(**LONG)))
            asked_s = played_plan(page).seconds(played_plan(page).notes.tick)
            press_at(page, asked_s[:20])
            pass_time(page, 0.6, "some batches are closed, or refused")
            if allow_after is not None:
                page.evaluate("window.refusing = false")
            press_at(page, asked_s[20:40])
            pass_time(page, 0.6, "the rest is closed, or refused")
            page.keyboard.press("Escape")
            wait_for_reading(page)

        self.browse(work)
        take = Take.objects.get()
        self.assertEqual(sum(len(batch.notes) for batch in take.batches.all()), 40)
        self.assertEqual((take.ended_how, len(take.reading.onsets_s or [])), ("stopped", 40))

    def test_a_database_that_refuses_loses_nothing_while_the_server_is_there(self) -> None:
        self.play(REFUSES)

    def test_one_that_refuses_for_a_while(self) -> None:
        self.play(REFUSES, allow_after=20)

    def test_one_that_never_opens(self) -> None:
        self.play(NEVER_OPENS)

    def test_a_batch_that_is_lost_does_not_hold_up_the_others(self) -> None:
        def work() -> None:
            page = self.page
            begin(page, self.url(words(**LONG)))
            press_at(page, played_plan(page).seconds(played_plan(page).notes.tick)[:12])
            until(page, ALL_SENT)
            page.evaluate("giusto.ledger.take.count += 1")  # a number is taken, and its batch is nowhere
            page.keyboard.press("Escape")
            wait_for_reading(page)

        self.browse(work)
        self.assertEqual(len(Take.objects.get().reading.onsets_s or []), 12)

    def test_a_server_that_forgot_the_take_gets_all_of_it_again(self) -> None:
        def start() -> None:
            begin(self.page, self.url(words(**LONG)))
            plan = played_plan(self.page)
            press_at(self.page, plan.seconds(plan.notes.tick)[:20])
            until(self.page, ALL_SENT)

        def finish() -> None:
            self.page.keyboard.press("Escape")
            wait_for_reading(self.page)

        self.browse(start)
        self.assertGreater(Batch.objects.count(), 0)
        Take.objects.all().delete()  # a backup from before was restored
        self.browse(finish)
        self.assertEqual(len(Take.objects.get().reading.onsets_s or []), 20)

    def test_a_refused_take_can_be_saved_and_forgotten(self) -> None:
        def work() -> tuple[str, bool]:
            page = self.page
            begin(page, self.url(words(**LONG)))
            page.evaluate("giusto.ledger.take.begin.mood = 'good'")
            page.evaluate("giusto.ledger.startOver()")
            page.keyboard.press("Escape")
            until(page, "document.getElementById('tap-text').innerText.includes('refused')")
            page.goto(self.url("/log/"))
            page.wait_for_selector("text=Giusto refused it")
            with page.expect_download() as caught:
                page.click("text=Save it as a file")
            name = caught.value.suggested_filename
            page.click("text=Forget it")
            page.wait_for_selector("#outbox", state="hidden")
            return name, page.is_visible("#outbox")

        name, is_there = self.browse(work)
        self.assertRegex(name, r"^giusto-take-[0-9a-f-]{36}\.json$")
        self.assertFalse(is_there)

    def test_anothers_take_stays_where_it_is(self) -> None:
        def work() -> int:
            page = self.page
            begin(page, self.url(words(**LONG)))
            page.evaluate("giusto.ledger.take.player = '999999'")
            page.evaluate("giusto.ledger.save()")
            self.site.stop()
            page.close()
            self.page = self.new_page()
            self.site.start()
            self.page.goto(self.url("/log/"))
            pass_time(self.page, 1.2, "nothing is sent")
            return len([url for url in self.requests if "/end/" in url])

        self.assertEqual(self.browse(work), 0)

    def test_online_ten_times_sends_once(self) -> None:
        def work() -> int:
            page = self.page
            begin(page, self.url(words(**LONG)))
            until(page, "giusto.ledger.take.begun")
            page.goto(self.url("/method/"))  # left in mid-take: it is sent from here
            until(page, "document.getElementById('outbox').hidden")
            pass_time(page, 0.8, "nothing more is sent")
            before = len(self.requests)
            page.evaluate("for (let k = 0; k < 10; k += 1) dispatchEvent(new Event('online'))")
            pass_time(page, 0.8, "nothing is sent")
            return len(self.requests) - before

        self.assertEqual(self.browse(work), 0)  # nothing waits any more
        self.assertEqual(Take.objects.get().ended_how, "broken")

    def test_another_tab_does_not_end_a_take_that_is_played(self) -> None:
        def work() -> str:
            begin(self.page, self.url(words(**LONG)))
            other = self.new_page()
            other.goto(self.url("/log/"))
            pass_time(other, 1.2, "nothing ends the take")
            return machine(self.page)

        self.assertEqual(self.browse(work), "playing")
        self.assertEqual(Take.objects.get().ended_how, "")


class ClockTests(ServedTestCase):
    init_script = STEADY_CLOCK

    def test_a_clock_that_is_set_back_in_mid_take_moves_nothing(self) -> None:
        """By an hour and by a day: notes are stamped by clocks that nobody sets."""
        for back_ms in (3_600_000, 86_400_000):
            Take.objects.all().delete()

            def work(back_ms: int = back_ms) -> list[float]:
                page = self.page
                begin(page, self.url(words(**LONG)))
                plan = played_plan(page)
                times = plan.seconds(plan.notes.tick)[:24]
                press_at(page, times[:12])
                page.evaluate(SET_BACK, back_ms)
                press_at(page, times[12:])
                page.keyboard.press("Escape")
                wait_for_reading(page)
                return [float(time) for time in times]

            with self.subTest(back_ms):
                began = timezone.now()
                times = self.browse(work)
                take = Take.objects.get()
                found = np.array(take.reading.onsets_s)
                self.assertEqual(found.size, len(times))
                self.assertLess(float(np.max(np.abs(np.diff(found) - np.diff(times)))), 0.002)
                self.assertLess(abs((take.started_at - began).total_seconds()), 60)


class StartTests(ServedTestCase):
    def test_escape_while_starting_leaves_at_once(self) -> None:
        def work() -> int:
            page = self.page
            page.add_init_script(STANDS_STILL + SOUNDS)
            page.goto(self.url(words(**LONG)))
            page.click("#tap")
            until(page, "document.getElementById('stage').dataset.machine === 'starting'")
            page.keyboard.press("Escape")
            page.wait_for_url("**/set/**")
            return len(self.faults)

        self.assertEqual(self.browse(work), 0)
        self.assertFalse(Take.objects.filter(deleted_at=None).exists())

    def test_a_clock_that_stands_still_is_said_and_nothing_sounds(self) -> None:
        def work() -> tuple[str, str, int]:
            page = self.page
            page.add_init_script(STANDS_STILL + SOUNDS)
            page.goto(self.url(words(**LONG)))
            page.click("#tap")
            until(page, "document.getElementById('word').innerText === 'No sound'")
            return text_of(page, "#tap-text"), machine(page), int(page.evaluate("window.started"))

        text, state, sounds = self.browse(work)
        self.assertIn("stands still", text)
        self.assertEqual((state, sounds), ("idle", 0))
        self.assertEqual(Take.objects.count(), 0)

    def test_nothing_happens_twice(self) -> None:
        """Two strokes on Begin are one beginning, and two on Stop one end."""

        def work() -> None:
            page = self.page
            page.goto(self.url(words(**LONG)))
            page.keyboard.press("Space")
            page.keyboard.press("Space")
            until(page, "globalThis.giusto?.page?.next >= 1")
            page.keyboard.press("j")  # one without a note would not be kept
            page.keyboard.press("Escape")
            page.keyboard.press("Escape")
            wait_for_reading(page)

        self.browse(work)
        self.assertEqual(Take.objects.count(), 1)
        self.assertEqual(self.faults, [])


class MachineTests(ServedTestCase):
    """Every state of the play page answers what can happen in it."""

    def test_an_end_that_fails_sends_what_was_kept_before_it(self) -> None:
        def work() -> None:
            page = self.page
            begin(page, self.url(words(**LONG)))
            until(page, "globalThis.giusto?.page?.next >= 1")
            for _ in range(4):
                page.keyboard.press("j")
                pass_time(page, 0.12, "between two strokes")
            page.evaluate("giusto.capture.close()")
            page.evaluate("void (giusto.capture.stop = () => Promise.reject(new Error('odd')))")
            page.keyboard.press("Escape")
            wait_for_reading(page)

        self.browse(work)
        take = Take.objects.get()
        self.assertEqual((take.ended_how, len(take.reading.onsets_s or [])), ("stopped", 4))

    def test_a_network_that_is_lost_while_a_take_ends(self) -> None:
        """It is said, tried again, and the reading opens by itself once the network is back."""

        def work() -> tuple[str, str]:
            page = self.page
            begin(page, self.url(words(**LONG)))
            until(page, "globalThis.giusto?.page?.next >= 1")
            page.keyboard.press("j")
            self.context.set_offline(True)
            page.keyboard.press("Escape")
            until(page, "document.getElementById('stage').dataset.machine === 'waiting'")
            said = text_of(page, "#tap-text")
            self.context.set_offline(False)
            return said, wait_for_reading(page)

        said, _ = self.browse(work)
        self.assertIn("Giusto does not answer.", said)
        self.assertEqual(Take.objects.count(), 1)

    def test_an_end_that_is_refused_is_said_and_left(self) -> None:
        def work() -> str:
            page = self.page
            begin(page, self.url(words(**LONG)))
            until(page, "globalThis.giusto?.page?.next >= 1")
            page.keyboard.press("j")
            refusal = {"status": 422, "content_type": "application/json", "body": '{"error": "not like this"}'}
            page.route("**/end/", lambda route: route.fulfill(**refusal))
            page.keyboard.press("Escape")
            until(page, "document.getElementById('stage').dataset.machine === 'over'")
            said = text_of(page, "#tap-text")
            page.unroute("**/end/")
            page.keyboard.press("Escape")
            page.wait_for_url("**/set/**")
            return said

        self.assertEqual(self.browse(work), "The take was refused: not like this")

    def test_batches_that_are_asked_for_again_and_again_are_no_dead_end(self) -> None:
        def work() -> str:
            page = self.page
            begin(page, self.url(words(**LONG)))
            until(page, "globalThis.giusto?.page?.next >= 1")
            page.keyboard.press("j")
            missing = {"status": 409, "content_type": "application/json", "body": '{"error": "?", "missing": [0]}'}
            page.route("**/end/", lambda route: route.fulfill(**missing))
            page.keyboard.press("Escape")
            until(page, "document.getElementById('stage').dataset.machine === 'waiting'")
            said = text_of(page, "#tap-text")
            page.unroute("**/end/")
            wait_for_reading(page)
            return said

        self.assertIn("batches 0 are missing", self.browse(work))

    def test_strokes_begin_a_take_after_one_that_could_not(self) -> None:
        """The sounds do not come, it is said; they come again, and strokes are listened to again."""

        def work() -> str:
            page = self.page
            page.route("**/set/sounds/**", lambda route: route.abort())
            page.goto(self.url(words(**LONG)))
            page.keyboard.press("Space")
            until(page, "document.getElementById('tap-text').innerText.includes('could not start')")
            said = text_of(page, "#tap-text")
            page.unroute("**/set/sounds/**")
            pass_time(page, 4.5, "the strokes lie behind the page’s load, after a rest that it heard")
            strike_evenly(page)
            until(page, "globalThis.giusto?.page?.next >= 1")
            page.keyboard.press("j")
            page.keyboard.press("Escape")
            wait_for_reading(page)
            return said

        self.assertIn("Begin again.", self.browse(work))

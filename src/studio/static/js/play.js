// One take: begin on a real click or key, sound, notes, what the page says, the end.

import { Capture } from "./capture.js";
import { ClockPairs } from "./clocks.js";
import { lockName, NoAnswerError, sendTake } from "./outbox.js";
import { element, Page, say } from "./page.js";
import { Clicker, fetchSounds, newContext } from "./sound.js";
import { putTake } from "./store.js";

const LEAD_S = 0.5; // from the start to the first click
const RETRY_MS = 1500;
const HOLD_MS = 600;

const plan = JSON.parse(element("plan").textContent ?? "");
const stage = element("stage");
const context = newContext();
const { voice, gains } = plan.reach;
const sounds = fetchSounds(context, voice); // now, while the server is sure to be there
sounds.catch(() => {}); // asked for once more, and told, when the take begins
let playing = null;

/** A take being played. */
class Playing {
  async begin() {
    this.context = context;
    await this.context.resume();
    this.clocks = new ClockPairs(this.context);
    await this.#clocksRun();
    const found = await sounds.catch(() => fetchSounds(context, voice));
    this.clicker = new Clicker(this.context, plan.clicks, found, gains);
    this.zero_s = this.clicker.start(LEAD_S);
    this.take = this.#kept();
    await putTake(this.take);
    navigator.locks.request(lockName(this.take.id), () => new Promise((free) => (this.unlock = free)));
    this.capture = new Capture(this.take, this.clocks, { listen: !plan.notes_s, closed: () => this.#send() });
    this.page = new Page(plan, (time_s) => this.page_ms(time_s));
    globalThis.giusto = this; // for tests and the curious; nothing here reads it
    this.page.start();
    this.#awaitEnd();
    this.#awaitReturns();
    if (plan.notes_s) this.#simulate(0);
    this.context.onstatechange = () => this.context.state !== "running" && this.finish("broken");
    this.wakeLock = await navigator.wakeLock?.request("screen").catch(() => null);
  }

  /** Page time, ms, of a drill time. @param {number} time_s */
  page_ms(time_s) {
    return this.clocks.page_ms(this.zero_s + time_s);
  }

  /** End the take and keep it. @param {"complete" | "stopped" | "broken"} how */
  async finish(how) {
    if (this.over) return;
    this.#halt();
    await this.capture.stop();
    this.take.ended = { how, batches: this.take.count };
    await putTake(this.take);
    show("Read", "the take is kept", "Reading it.");
    await this.#arrive();
  }

  /** End the take and forget it. */
  async discard() {
    if (this.over) return;
    this.#halt();
    await this.capture.stop();
    this.take.discarded = true;
    await putTake(this.take);
    await sendTake(this.take).catch(() => {});
    location.assign(stage.dataset.home ?? "/");
  }

  #halt() {
    this.over = true;
    this.context.onstatechange = null;
    this.clicker.stop();
    this.page.stop();
    clearTimeout(this.endTimer);
    clearTimeout(this.noteTimer);
    this.wakeLock?.release();
  }

  async #clocksRun() {
    for (let tries = 0; !this.clocks.ready && tries < 200; tries += 1) {
      this.clocks.sample();
      await new Promise((done) => setTimeout(done, 20));
    }
  }

  #kept() {
    const { drill, input, simulated } = plan;
    const device = {
      browser: navigator.userAgent,
      sample_rate_hz: this.context.sampleRate,
      base_latency_s: this.context.baseLatency,
      output_latency_s: this.context.outputLatency ?? null,
      isolated: globalThis.crossOriginIsolated,
      voice,
      click_gain: gains.click,
      heard: plan.reach.heard,
      seen: plan.reach.seen,
      felt: plan.reach.felt,
    };
    const begin = { drill, input, device, zero_audio_s: this.zero_s, started_at: new Date().toISOString() };
    if (simulated) begin.simulated = simulated;
    return { id: crypto.randomUUID(), begin, begun: false, count: 0, ended: null, discarded: false, refused: "" };
  }

  /** Send what is full; one sending at a time, failures wait for the next. */
  async #send() {
    this.sending ??= sendTake(this.take).catch(() => "").finally(() => (this.sending = null));
    return this.sending;
  }

  /** Send until all has arrived, then show the reading. */
  async #arrive() {
    await this.sending;
    for (;;) {
      try {
        const reading = await sendTake(this.take);
        this.unlock?.();
        if (this.take.refused) return show("Kept", "in this browser", `The take was refused: ${this.take.refused}`);
        return location.assign(reading);
      } catch (error) {
        if (!(error instanceof NoAnswerError)) throw error;
        show("Kept", "in this browser", "Giusto does not answer. The take is sent as soon as it does.");
        await new Promise((done) => setTimeout(done, RETRY_MS));
      }
    }
  }

  #awaitEnd() {
    const wait_ms = this.page_ms(plan.end_s) - performance.now();
    this.endTimer = setTimeout(() => (wait_ms > 20 ? this.#awaitEnd() : this.finish("complete")), Math.max(0, wait_ms));
  }

  /** After each return, fetch how the silence came out; it is shown when a click next sounds. */
  #awaitReturns() {
    plan.silences.forEach(([, end_s], index) => {
      const settle_s = Math.min(0.6 * plan.beat_s, 0.5);
      setTimeout(() => this.#fetchSilence(index + 1), this.page_ms(end_s + settle_s) - performance.now());
    });
  }

  /** @param {number} number */
  async #fetchSilence(number) {
    if (this.over) return;
    await this.capture.close();
    await this.#send();
    await this.#send();
    const response = await fetch(`/takes/${this.take.id}/silences/${number}/`).catch(() => null);
    if (response?.status !== 200) return;
    const found = new DOMParser().parseFromString(await response.text(), "text/html");
    this.page.later(() => {
      for (const part of found.querySelectorAll("[data-part]")) {
        element(part.getAttribute("data-part") ?? "").replaceChildren(part);
      }
      this.page.moveBar();
    });
  }

  /** Play the simulated player's notes in real time, through the same capture. @param {number} index */
  #simulate(index) {
    if (this.over) return;
    let next = index;
    // All that are due at once: a busy machine wakes the page late, and the end must not come first.
    for (; plan.notes_s[next] !== undefined && this.page_ms(plan.notes_s[next]) <= performance.now(); next += 1) {
      this.capture.note(this.page_ms(plan.notes_s[next]), "simulated");
    }
    if (plan.notes_s[next] === undefined) return;
    const wait_ms = this.page_ms(plan.notes_s[next]) - performance.now();
    this.noteTimer = setTimeout(() => this.#simulate(next), Math.max(0, wait_ms));
  }
}

/** @param {string} word @param {string} line @param {string} text */
function show(word, line, text) {
  stage.dataset.state = "after";
  element("word").textContent = word;
  say([line]);
  element("aside").textContent = "";
  element("tap-word").textContent = "";
  element("tap-text").textContent = text;
}

async function begin() {
  if (playing) return;
  playing = new Playing();
  /** @type {HTMLElement} */ (document.activeElement)?.blur?.();
  element("tap-word").textContent = plan.notes_s ? "Listen" : "Tap here";
  element("tap-text").textContent = plan.notes_s ? "The simulated player plays this take." : "or press Space, J or F.";
  try {
    await playing.begin();
  } catch (error) {
    playing = null;
    show("No sound", "the browser gave none", `The click could not start: ${error}`);
  }
}

/** Change a setting now, or while playing when a click next sounds. @param {() => void} change */
function change(change) {
  if (playing?.page && !playing.over) playing.page.later(change);
  else change();
}

const toggles = {
  KeyV: () => (stage.dataset.verdicts = stage.dataset.verdicts === "shown" ? "hidden" : "shown"),
  KeyD: () => look(document.documentElement.dataset.look === "stage" ? "paper" : "stage"),
};

/** @param {string} name */
function look(name) {
  document.documentElement.dataset.look = name;
  localStorage.setItem("giusto-look", name);
}

look(localStorage.getItem("giusto-look") ?? "paper");

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
  if (event.code in toggles) change(toggles[event.code]);
  else if (!playing && ["Space", "Enter"].includes(event.code)) {
    event.preventDefault();
    begin();
  } else if (event.code === "Escape") playing ? playing.finish("stopped") : location.assign(stage.dataset.home ?? "/");
  else if (event.code === "Backspace" && playing && confirm("Stop, and forget this take?")) playing.discard();
});

element("tap").addEventListener("click", begin);

const stop = element("stop");
let holding = 0;
stop.addEventListener("pointerdown", () => (holding = setTimeout(() => playing?.finish("stopped"), HOLD_MS)));
for (const gone of ["pointerup", "pointercancel", "pointerleave"]) stop.addEventListener(gone, () => clearTimeout(holding));

// Strokes that may count a take in: gathered here, judged by the server.

import { address } from "./addresses.js";
import { soundForm } from "./microphone.js";
import { csrfToken } from "./outbox.js";

const WINDOW_S = 10; // of sound that is listened to
const LOUD = 0.01; // of full scale: softer sound is not worth asking about
const FORGET_MS = 12_000;
const AFTER_MS = 90; // the sound of a stroke is there in whole by then
const KEPT = "giusto-counted"; // what a page hands to the one it leads to
const FRESH_MS = 12_000;
const AGAIN_MS = 300; // until one whom nobody answered asks once more

/**
 * @typedef {{last_ms: number, beat_s: number, bpm: number}} Counted its last stroke in page time
 * @typedef {{code: string, words: string, threshold_db: number, refractory_s: number, counted: {last_s: number, beat_s: number, bpm: number} | null}} Heard
 */

/** Listens for strokes until it is stopped. */
export class Strokes {
  /** @type {number[]} page times, ms */
  #times = [];
  #asking = false;
  #more = false; // what came while the server was asked waits for its answer: the last stroke among it
  /** @type {ReturnType<typeof setTimeout> | undefined} */
  #timer;
  #until = new AbortController();
  #since_ms = performance.now(); // a rest that this page did not hear, or nobody saw it hear, is none
  #off = () => {};

  /**
   * @param {import("./hearing.js").Hearing} hearing
   * @param {(audio_s: number) => number} page_ms page time of audio time
   * @param {{counted: (found: Counted) => void, level?: (found: Heard) => void}} told
   */
  constructor(hearing, page_ms, told) {
    this.hearing = hearing;
    this.page_ms = page_ms;
    this.told = told;
    const { microphone } = hearing;
    if (microphone) this.#off = microphone.onPiece((piece) => this.#hear(piece));
    document.addEventListener("visibilitychange", () => (this.#since_ms = performance.now()), { signal: this.#until.signal });
    addEventListener("keydown", (event) => {
      if (event.code !== "KeyJ" || event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      if (!(/** @type {Element} */ (event.target).closest("input, textarea, select"))) this.stroke(event.timeStamp);
    }, { signal: this.#until.signal });
  }

  /** Listen no more. */
  stop() {
    this.#until.abort();
    clearTimeout(this.#timer);
    this.#off();
  }

  /** One stroke by key, pad or string. @param {number} at_ms */
  async stroke(at_ms) {
    if (!this.hearing.ear.counts_in) return;
    this.#times = [...this.#times.filter((one) => at_ms - one < FORGET_MS && one < at_ms), at_ms];
    if (this.#times.length < this.hearing.ear.strokes) return;
    const times = JSON.stringify(this.#times.map((one) => Number(one.toFixed(3))));
    const asked = new URLSearchParams({ ms: times, since: `[${this.#since_ms.toFixed(3)}]` });
    const response = await answer(`${address("strokes")}?${asked}`);
    if (this.#until.signal.aborted || document.hidden || !response?.ok) return;
    const { counted } = await response.json();
    if (counted) this.told.counted({ ...counted, last_ms: 1000 * counted.last_s });
  }

  /** Sound that is worth asking about is asked about, one question at a time. @param {import("./microphone.js").Piece} piece */
  #hear(piece) {
    const loud = piece.samples.some((sample) => Math.abs(sample) > LOUD * 32767);
    if (loud) this.#timer ??= setTimeout(() => this.#ask(), AFTER_MS);
  }

  async #ask() {
    this.#timer = undefined;
    const { microphone, ear } = this.hearing;
    this.#more = this.#asking;
    if (this.#asking || !microphone || this.#until.signal.aborted) return;
    this.#asking = true;
    const heard_s = Math.min(WINDOW_S, (performance.now() - this.#since_ms) / 1000);
    const body = soundForm(microphone.recent(heard_s), microphone.context.sampleRate);
    body.set("csrfmiddlewaretoken", csrfToken());
    const response = await answer(address("listen"), { method: "POST", body, headers: { Accept: "application/json" } });
    this.#asking = false;
    if (this.#more) this.#ask();
    if (this.#until.signal.aborted || !response?.ok) return;
    /** @type {Heard} */
    const found = await response.json();
    this.hearing.threshold_db = found.threshold_db;
    this.hearing.refractory_s = found.refractory_s;
    this.told.level?.(found);
    if (!found.counted || !ear.counts_in || document.hidden) return;
    if (!Number.isFinite(this.page_ms(0))) return;
    const played_s = found.counted.last_s - (ear.delay_ms ?? 1000 * (ear.room?.delay_s ?? 0)) / 1000;
    this.told.counted({ ...found.counted, last_ms: this.page_ms(played_s) });
  }
}

/** Ask the server; where it does not answer, once more: nobody else asks about the last stroke. @param {string} where @param {RequestInit} [how] */
async function answer(where, how) {
  const first = await fetch(where, how).catch(() => null);
  if (first && first.status < 500) return first;
  await new Promise((done) => setTimeout(done, AGAIN_MS));
  return fetch(where, how).catch(() => null);
}

/** Hand strokes over to the page that is opened next. @param {Counted} found */
export function handOver(found) {
  sessionStorage.setItem(KEPT, JSON.stringify({ ...found, last_ms: performance.timeOrigin + found.last_ms }));
}

/** Take up strokes that an earlier page handed over, if they are fresh. @returns {Counted | null} */
export function handedOver() {
  const kept = sessionStorage.getItem(KEPT);
  sessionStorage.removeItem(KEPT);
  if (!kept) return null;
  const found = JSON.parse(kept);
  found.last_ms -= performance.timeOrigin;
  return performance.now() - found.last_ms < FRESH_MS ? found : null;
}

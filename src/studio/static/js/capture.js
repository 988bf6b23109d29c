// Notes: keys, mouse and touch by the event's own stamp, MIDI, sound, or a simulated player; kept as they come.

import { asText } from "./microphone.js";

const BATCH_MS = 400;
const FEW_PAIRS = 10; // clock pairs alone are worth a batch from here on
/** @type {Record<string, string>} */
const KEYS = { Space: "space", KeyJ: "j", KeyF: "f" };

/** Collects the notes of one take in numbered batches. */
export class Capture {
  /** @type {import("./store.js").Batch} */
  #batch;
  #listening = new AbortController();

  /**
   * @param {import("./ledger.js").Ledger} ledger
   * @param {import("./clocks.js").ClockPairs} clocks
   * @param {{listen: boolean, closed: () => void}} options whether keys and touches are notes; what
   *   to call when a batch is closed and can be sent
   */
  constructor(ledger, clocks, { listen, closed }) {
    this.ledger = ledger;
    this.clocks = clocks;
    this.closed = closed;
    this.#batch = this.#newBatch();
    this.#listen(listen);
    this.clocks.start();
    this.timer = setInterval(() => this.close(), BATCH_MS);
  }

  /** Keep one note. @param {number} at_ms page time @param {string} source @param {number} [strength] 0 to 1 */
  note(at_ms, source, strength) {
    this.#batch.body.notes.push(strength === undefined ? { at_ms, source } : { at_ms, source, strength });
    this.#keep();
  }

  /** Keep a piece of sound. @param {import("./microphone.js").Piece} piece */
  sound({ frame, samples }) {
    this.#batch.body.sound.push({ frame, samples: asText(samples) });
    this.#keep();
  }

  /** Keys and touches are notes from now on: what was heard by is gone. */
  listenToKeys() {
    this.#listen(true);
  }

  /** Close the batch that is open, where there is something in it. */
  async close() {
    const { notes, pairs, sound } = this.#batch.body;
    pairs.push(...this.clocks.take());
    const full = notes.length > 0 || sound.length > 0 || pairs.length >= FEW_PAIRS;
    if (full) this.#batch.open = false;
    const kept = this.#keep();
    if (full) {
      this.#batch = this.#newBatch();
      this.closed();
    }
    await kept;
  }

  /** Take no more notes; all there are, are kept when this is done. */
  async stop() {
    clearInterval(this.timer);
    this.clocks.stop();
    this.#listening.abort();
    this.clocks.sample();
    this.#batch.body.pairs.push(...this.clocks.take());
    this.#batch.open = false;
    await this.#keep();
  }

  /** @returns {import("./store.js").Batch} */
  #newBatch() {
    const { take } = this.ledger;
    return { take: take.id, number: take.count, open: true, body: { notes: [], pairs: [], sound: [] } };
  }

  #keep() {
    return this.ledger.keep(this.#batch);
  }

  /** @param {boolean} notes */
  #listen(notes) {
    const { signal } = this.#listening;
    addEventListener("pagehide", () => this.close(), { signal });
    if (!notes) return;
    addEventListener("keydown", (event) => {
      const key = KEYS[event.code];
      if (!key || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      if (!event.repeat) this.note(event.timeStamp, key);
    }, { signal });
    addEventListener("pointerdown", (event) => {
      if (event.target instanceof Element && event.target.closest("[data-not-a-note]")) return;
      this.note(event.timeStamp, event.pointerType || "mouse");
    }, { signal });
  }
}

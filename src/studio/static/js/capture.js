// Notes: keys, mouse and touch by the event's own stamp, or a simulated player; kept as they come.

import { putBatch } from "./store.js";

const BATCH_MS = 400;
const KEYS = { Space: "space", KeyJ: "j", KeyF: "f" };

/** Collects the notes of one take in numbered batches. */
export class Capture {
  /**
   * @param {import("./store.js").Kept} take
   * @param {import("./clocks.js").ClockPairs} clocks
   * @param {{listen: boolean, closed: () => void}} options whether keys and touches are notes; what
   *   to call when a batch is closed and can be sent
   */
  constructor(take, clocks, { listen, closed }) {
    this.take = take;
    this.clocks = clocks;
    this.closed = closed;
    this.batch = this.#newBatch();
    this.#listen(listen);
    this.clocks.start();
    this.timer = setInterval(() => this.close(), BATCH_MS);
  }

  /** Keep one note. @param {number} stamp_ms page time @param {string} source */
  note(stamp_ms, source) {
    this.batch.body.stamps_ms.push(stamp_ms);
    this.batch.body.sources.push(source);
    this.#keep();
  }

  /** Close the batch that is open, where there is something in it. */
  close() {
    this.batch.body.pairs.push(...this.clocks.take());
    const { stamps_ms, pairs } = this.batch.body;
    if (!stamps_ms.length && pairs.length < 10) return this.#keep();
    this.batch.open = false;
    const kept = this.#keep();
    this.batch = this.#newBatch();
    this.closed();
    return kept;
  }

  /** Take no more notes; all there are, are kept when this is done. */
  async stop() {
    clearInterval(this.timer);
    this.clocks.stop();
    this.listening.abort();
    this.clocks.sample();
    this.batch.body.pairs.push(...this.clocks.take());
    this.batch.open = false;
    await this.#keep();
  }

  #newBatch() {
    return { take: this.take.id, number: this.take.count, open: true, body: { stamps_ms: [], sources: [], pairs: [] } };
  }

  /** Write the batch down now: a tab may close at any moment. */
  #keep() {
    this.take.count = this.batch.number + 1;
    return putBatch(this.take, structuredClone(this.batch));
  }

  /** @param {boolean} notes */
  #listen(notes) {
    this.listening = new AbortController();
    const { signal } = this.listening;
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

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
  /** @type {import("./microphone.js").Piece[]} the sound of the batch, as it came */
  #pieces = [];
  /** @type {Promise<void>} until what was closed is packed */
  #packed = Promise.resolve();
  #listening = new AbortController();

  /**
   * @param {import("./ledger.js").Ledger} ledger
   * @param {import("./clocks.js").ClockPairs} clocks
   * @param {{listen: boolean, packing: import("./packing.js").Packing, closed: () => void}} options
   *   whether keys and touches are notes; what packs sound; what to call when a batch is closed and can be sent
   */
  constructor(ledger, clocks, { listen, packing, closed }) {
    this.ledger = ledger;
    this.clocks = clocks;
    this.packing = packing;
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
  sound(piece) {
    this.#pieces.push(piece);
    this.#batch.body.sound.push({ frame: piece.frame, samples: asText(piece.samples) });
    this.#keep();
  }

  /** Whether all that was captured is in batches that are closed: for tests and the curious; nothing here reads it. */
  get isEmpty() {
    const { notes, sound } = this.#batch.body;
    return !notes.length && !sound.length;
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
    if (full && !sound.length) this.#batch.open = false;
    const kept = this.#keep();
    if (full) {
      const [batch, pieces] = [this.#batch, this.#pieces];
      [this.#batch, this.#pieces] = [this.#newBatch(), []];
      this.#packed = this.#packed.then(() => this.#shut(batch, pieces)).then(() => this.closed());
    }
    await kept;
    await this.#packed;
  }

  /** Take no more notes; all there are, are kept when this is done. */
  async stop() {
    clearInterval(this.timer);
    this.clocks.stop();
    this.#listening.abort();
    this.clocks.sample();
    this.#batch.body.pairs.push(...this.clocks.take());
    const kept = this.#keep();
    await this.#packed;
    await this.#shut(this.#batch, this.#pieces);
    await kept;
    this.packing.close();
  }

  /** Close a batch, its sound packed where that can be. @param {import("./store.js").Batch} batch @param {import("./microphone.js").Piece[]} pieces */
  async #shut(batch, pieces) {
    if (!batch.open) return;
    const packed = pieces.length ? await this.packing.pack(pieces) : null;
    if (packed) batch.body.sound = packed.map(({ frame, flac }) => ({ frame, flac: asText(flac) }));
    batch.open = false;
    await this.ledger.keep(batch);
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

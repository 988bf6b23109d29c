// One take and its batches: in memory, and in the browser's database as far as that takes them.

import { batchesOf, batchOf, dropTake, putBatch, putTake } from "./store.js";

/** @typedef {import("./store.js").Kept} Kept @typedef {import("./store.js").Batch} Batch */

/** What was played, from its first note until the server has all of it. */
export class Ledger {
  /** @type {Map<number, Batch | null>} every batch of the take; null where the browser's database alone has it, for when the server loses it */
  #batches = new Map();
  /** @type {Set<number>} those that the server has acknowledged */
  #sent = new Set();
  /** Whether the browser's database failed: then memory alone holds what the server has not. */
  failing = false;

  /** @param {Kept} take @param {Batch[]} [batches] */
  constructor(take, batches = []) {
    this.take = take;
    for (const batch of batches) this.#batches.set(batch.number, batch);
  }

  /** Take up a take that an earlier page left. @param {Kept} take */
  static async of(take) {
    return new Ledger(take, await batchesOf(take.id));
  }

  /** Write down the take itself. */
  async save() {
    await this.#tried(putTake(this.take));
  }

  /** Write a batch down now: a tab may close at any moment. @param {Batch} batch */
  async keep(batch) {
    this.take.count = Math.max(this.take.count, batch.number + 1);
    this.#batches.set(batch.number, batch);
    await this.#tried(putBatch(this.take, structuredClone(batch)));
  }

  /** The numbers of the batches that can be sent: closed ones, or all once the take is over. */
  waiting() {
    const over = this.take.ended !== null;
    return [...this.#batches.entries()]
      .filter(([number, batch]) => !this.#sent.has(number) && (over || !batch?.open))
      .map(([number]) => number)
      .sort((a, b) => a - b);
  }

  /** What is in a batch. @param {number} number */
  async body(number) {
    const batch = this.#batches.get(number) ?? (await batchOf(this.take.id, number).catch(() => undefined));
    return batch?.body ?? { notes: [], pairs: [], sound: [] }; // lost here too: the others are not lost with it
  }

  /** @param {number} number */
  has(number) {
    return this.#batches.has(number);
  }

  /** The server has a batch: an hour of sound need not lie in memory. @param {number} number */
  acknowledge(number) {
    this.#sent.add(number);
    if (!this.failing) this.#batches.set(number, null);
  }

  /** The server does not know the take any more: all of it goes there again. */
  startOver() {
    this.take.begun = false;
    this.#sent.clear();
  }

  /** Forget the take: the server has it, or the player wants it so. */
  async drop() {
    await this.#tried(dropTake(this.take.id));
    this.#batches.clear();
  }

  /** All of it, for a file. */
  async plain() {
    const batches = [];
    for (const number of [...this.#batches.keys()].sort((a, b) => a - b)) batches.push({ number, body: await this.body(number) });
    return { take: this.take, batches };
  }

  /** @param {Promise<void>} writing */
  async #tried(writing) {
    try {
      await writing;
      this.failing = false;
    } catch {
      this.failing = true;
    }
  }
}

// One take and its batches: in memory, and in the browser's database as far as that takes them.

import { batchesOf, dropTake, putBatch, putTake } from "./store.js";

/** @typedef {import("./store.js").Kept} Kept @typedef {import("./store.js").Batch} Batch */

/** What was played, from its first note until the server has all of it. */
export class Ledger {
  /** @type {Map<number, Batch>} every batch of the take, until the server has ended it */
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

  /** The batches that can be sent: closed ones, or all once the take is over. */
  waiting() {
    const over = this.take.ended !== null;
    return [...this.#batches.values()]
      .filter((batch) => !this.#sent.has(batch.number) && (over || !batch.open))
      .sort((a, b) => a.number - b.number);
  }

  /** @param {number} number */
  has(number) {
    return this.#batches.has(number);
  }

  /** @param {number} number */
  acknowledge(number) {
    this.#sent.add(number);
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
  plain() {
    return { take: this.take, batches: [...this.#batches.values()] };
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

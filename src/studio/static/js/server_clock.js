// How this device's clock lies against the server's: so two devices of a player's know each other's time.

import { address } from "./addresses.js";
import { csrfToken } from "./outbox.js";

const TIMES = 8;
const KEPT = 20; // answers, of which the quickest tells most

/** @typedef {{now_ms: number, take: string | null, listens: boolean}} Now what the server says */

/** Joined to the server's clock by its quickest answer. */
export class ServerClock {
  /** @type {{offset_ms: number, half_ms: number}[]} */
  #answers = [];

  /** Ask once. @param {boolean} listens whether a phone asks that listens @returns {Promise<Now | null>} null where there is no answer */
  async ask(listens = false) {
    const asked_ms = performance.now();
    const options = listens ? { method: "POST", headers: { "X-CSRFToken": csrfToken() } } : {};
    const response = await fetch(address("phone-now"), options).catch(() => null);
    const answered_ms = performance.now();
    /** @type {Now | null} */
    const now = response?.ok ? await response.json().catch(() => null) : null;
    if (!now) return null;
    this.#answers.push({ offset_ms: now.now_ms - (asked_ms + answered_ms) / 2, half_ms: (answered_ms - asked_ms) / 2 });
    if (this.#answers.length > KEPT) this.#answers.shift();
    return now;
  }

  /** Ask some times. @returns {Promise<Now | null>} the last answer */
  async join() {
    let now = null;
    for (let i = 0; i < TIMES; i += 1) now = (await this.ask()) ?? now;
    return now;
  }

  get #best() {
    return this.#answers.reduce((best, one) => (one.half_ms < best.half_ms ? one : best), { offset_ms: NaN, half_ms: Infinity });
  }

  /** Whether any answer has come. */
  get isJoined() {
    return this.#answers.length > 0;
  }

  /** The server's time of a page time, ms. @param {number} page_ms */
  server_ms(page_ms) {
    return page_ms + this.#best.offset_ms;
  }

  /** How far off that may be, ms. */
  get half_ms() {
    return this.#best.half_ms;
  }
}

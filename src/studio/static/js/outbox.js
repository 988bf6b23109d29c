// Sends kept takes until the server has ended them. Sending twice changes nothing there.

import { address } from "./addresses.js";
import { Ledger } from "./ledger.js";
import { allTakes } from "./store.js";

/** The server could not be reached, or is not well: the same again later. */
export class NoAnswerError extends Error {}

/** The server refused what was sent, and would again. */
class RefusedError extends Error {}

/** The server does not know the take. */
class UnknownError extends Error {}

/** Batches that the server waits for before a take can end. */
class MissingError extends Error {
  /** @param {number[]} numbers */
  constructor(numbers) {
    super(`batches ${numbers} are missing`);
    this.numbers = numbers;
  }
}

const PATIENCE_MS = 15000;
const READING_MS = 90000; // a take by keys is read before its end is answered

/** @param {string} id The lock that a page holds while it plays the take. */
export const lockName = (id) => `giusto-take-${id}`;

/** Whose page this is. */
const player = () => document.body.dataset.player ?? "";

/**
 * Send one take as far as it goes.
 * @param {Ledger} ledger
 * @returns {Promise<string>} the address of its reading once it has ended and arrived, else ""
 */
export async function sendTake(ledger) {
  const { take } = ledger;
  try {
    return await sendAll(ledger);
  } catch (error) {
    if (error instanceof UnknownError) {
      ledger.startOver(); // a restored backup, or another database: nothing of it is there
      await ledger.save();
      throw new NoAnswerError("the server does not know the take yet");
    }
    if (!(error instanceof RefusedError)) throw error;
    take.refused = error.message;
    await ledger.save();
    return "";
  }
}

/** @param {Ledger} ledger @returns {Promise<string>} */
async function sendAll(ledger) {
  const { take } = ledger;
  if (take.discarded) {
    if (take.begun) await post(address("discard", { take: take.id }), {});
    await ledger.drop();
    return "";
  }
  if (!take.begun) {
    await post(address("begin", { take: take.id }), take.begin);
    take.begun = true;
    await ledger.save();
  }
  for (const number of ledger.waiting()) await sendBatch(ledger, number, await ledger.body(number));
  if (!take.ended) return "";
  const answer = await end(ledger);
  await ledger.drop();
  return answer.reading;
}

/** @param {Ledger} ledger @param {number} number @param {object} body */
async function sendBatch(ledger, number, body) {
  await post(address("batch", { take: ledger.take.id, number }), body);
  ledger.acknowledge(number);
}

/** End a take; a batch that is lost here too is sent empty, so that the others are not lost with it. @param {Ledger} ledger */
async function end(ledger) {
  const { take } = ledger;
  const where = address("end", { take: take.id });
  try {
    return await post(where, take.ended ?? {}, READING_MS);
  } catch (error) {
    if (!(error instanceof MissingError)) throw error;
    for (const number of error.numbers) {
      if (!ledger.has(number)) await sendBatch(ledger, number, { notes: [], pairs: [], sound: [] });
    }
    return await post(where, take.ended ?? {}, READING_MS);
  }
}

/**
 * Send every kept take of this page's player that no page is playing; those broken off are ended first.
 * @returns {Promise<{waiting: number, refused: Ledger[]}>}
 */
export async function sendKept() {
  let waiting = 0;
  /** @type {Ledger[]} */
  const refused = [];
  for (const take of await allTakes()) {
    if (take.player && take.player !== player()) continue; // another player's, who sends it when they are here
    await navigator.locks.request(lockName(take.id), { ifAvailable: true }, async (lock) => {
      if (!lock) return;
      const ledger = await Ledger.of(take);
      take.ended ??= { how: "broken", batches: take.count };
      try {
        if (!take.refused) await sendTake(ledger);
        if (take.refused) refused.push(ledger);
      } catch (error) {
        if (!(error instanceof NoAnswerError) && !(error instanceof MissingError)) throw error;
        waiting += 1;
      }
    });
  }
  return { waiting, refused };
}

/**
 * @param {string} where
 * @param {object} body
 * @param {number} [patience_ms]
 * @returns {Promise<{reading: string}>}
 */
async function post(where, body, patience_ms = PATIENCE_MS) {
  const response = await fetch(where, {
    method: "POST",
    headers: { "Content-Type": "application/json", Accept: "application/json", "X-CSRFToken": csrfToken() },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(patience_ms),
  }).catch((error) => {
    throw new NoAnswerError(String(error));
  });
  const text = await response.text().catch(() => "");
  const answer = parsed(text);
  if (response.ok && answer) return answer;
  if (response.status === 404) throw new UnknownError(text);
  if (response.status === 409 && answer?.missing) throw new MissingError(answer.missing);
  if (response.status === 409 && answer?.code === "ended") throw new RefusedError(answer.error);
  if (response.status === 403) await fetch(address("alive")).catch(() => {}); // cookies that were cleared come again
  // 401 is a session that has ended, 403 may be an old page's token, and an answer that is no JSON is not Giusto's: neither is the take's fault.
  if (response.ok || response.status >= 500 || [401, 403, 408, 409, 429].includes(response.status)) {
    throw new NoAnswerError(text);
  }
  throw new RefusedError(answer?.error ?? "the server refused it");
}

/** @param {string} text @returns {any} */
function parsed(text) {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** The token that goes with whatever changes something, from its cookie. */
export function csrfToken() {
  const name = `${document.body.dataset.csrf}=`;
  return document.cookie.split("; ").find((one) => one.startsWith(name))?.slice(name.length) ?? "";
}

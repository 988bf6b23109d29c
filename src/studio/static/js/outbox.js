// Sends kept takes until the server has acknowledged them. Sending twice changes nothing there.

import { allTakes, batchesOf, dropBatch, dropTake, putTake } from "./store.js";

/** The server could not be reached, or is not well: the same again later. */
export class NoAnswerError extends Error {}

/** The server refused what was sent, and would again. */
class RefusedError extends Error {}

/** @param {string} id The lock that a page holds while it plays the take. */
export const lockName = (id) => `giusto-take-${id}`;

/**
 * Send one take as far as it goes.
 * @param {import("./store.js").Kept} take
 * @returns {Promise<string>} the address of its reading once it has ended and arrived, else ""
 */
export async function sendTake(take) {
  try {
    return await sendAll(take);
  } catch (error) {
    if (!(error instanceof RefusedError)) throw error;
    take.refused = error.message;
    await putTake(take);
    return "";
  }
}

/** @param {import("./store.js").Kept} take */
async function sendAll(take) {
  if (take.discarded) {
    if (take.begun) await post(take.id, "discard/", {});
    await dropTake(take.id);
    return "";
  }
  if (!take.begun) {
    await post(take.id, "begin/", take.begin);
    take.begun = true;
    await putTake(take);
  }
  for (const batch of await batchesOf(take.id)) {
    if (batch.open && !take.ended) continue;
    await post(take.id, `batches/${batch.number}/`, batch.body);
    await dropBatch(batch);
  }
  if (!take.ended) return "";
  const answer = await post(take.id, "end/", take.ended);
  await dropTake(take.id);
  return answer.reading;
}

/**
 * Send every kept take that no page is playing; those broken off are ended first.
 * @returns {Promise<{waiting: number, refused: string[]}>}
 */
export async function sendKept() {
  let waiting = 0;
  const refused = [];
  for (const take of await allTakes()) {
    if (take.refused) {
      refused.push(take.refused);
      continue;
    }
    await navigator.locks.request(lockName(take.id), { ifAvailable: true }, async (lock) => {
      if (!lock) return;
      take.ended ??= { how: "broken", batches: take.count };
      try {
        await sendTake(take);
        if (take.refused) refused.push(take.refused);
      } catch (error) {
        if (!(error instanceof NoAnswerError)) throw error;
        waiting += 1;
      }
    });
  }
  return { waiting, refused };
}

/**
 * @param {string} id
 * @param {string} what
 * @param {object} body
 */
async function post(id, what, body) {
  let response;
  try {
    response = await fetch(`/takes/${id}/${what}`, {
      method: "POST",
      headers: { "Content-Type": "application/json", Accept: "application/json", "X-CSRFToken": csrfToken() },
      body: JSON.stringify(body),
      signal: AbortSignal.timeout(15000),
    });
  } catch (error) {
    throw new NoAnswerError(String(error));
  }
  if (response.ok) return response.json();
  const text = await response.text();
  // 403 may be an old page's token, 409 a batch on its way: neither is the take's fault.
  if (response.status >= 500 || [403, 408, 409, 429].includes(response.status)) {
    throw new NoAnswerError(text);
  }
  throw new RefusedError(reason(text));
}

/** @param {string} text */
function reason(text) {
  try {
    return JSON.parse(text).error;
  } catch {
    return "the server refused it";
  }
}

function csrfToken() {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

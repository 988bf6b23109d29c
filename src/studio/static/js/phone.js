// A phone beside the drum: it listens to each take that another device of the player's plays, and sends what it hears.

import { address } from "./addresses.js";
import { ClockPairs } from "./clocks.js";
import { asText, Microphone, refusal } from "./microphone.js";
import { csrfToken } from "./outbox.js";
import { Packing } from "./packing.js";
import { ServerClock } from "./server_clock.js";
import { newContext } from "./sound.js";
import { Strip } from "./strip.js";

const LOOK_MS = 600; // between two questions which take is played
const BEFORE_S = 4; // of sound that was there before the take was known of
const AFTER_MS = 600; // of sound after it is over
const PATIENCE_MS = 15000;
const AGAIN = 20; // times that what was not taken is sent anew

/** @typedef {import("./microphone.js").Piece} Piece */

const stage = element("phone");
const context = newContext();
const clocks = new ClockPairs(context);
const server = new ServerClock();
/** @type {Microphone | null} */
let microphone = null;
/** @type {Hearing | null} */
let hearing = null;

/** One take while it is listened to. */
class Hearing {
  /** @type {Piece[]} */
  #pieces = [];
  /** @type {Promise<unknown>} */
  #sending = Promise.resolve();
  #packing = new Packing(packer(), context.sampleRate);

  /** @param {string} take @param {Microphone} from */
  constructor(take, from) {
    this.take = take;
    const before = from.recent(BEFORE_S);
    if (before.samples.length) this.#pieces.push(before);
    this.off = from.onPiece((piece) => this.#pieces.push(piece));
  }

  /** Send what there is; one sending after the other, nothing is let go before it is taken. @param {boolean} [over] */
  send(over = false) {
    this.#sending = this.#sending.then(() => this.#send(over));
    return this.#sending;
  }

  /** @param {boolean} over */
  async #send(over) {
    const pieces = this.#pieces.splice(0);
    if (!pieces.length && !over) return;
    const packed = pieces.length ? await this.#packing.pack(pieces.map(({ frame, samples }) => ({ frame, samples: samples.slice() }))) : [];
    const sound = packed
      ? packed.map(({ frame, flac }) => ({ frame, flac: asText(flac) }))
      : pieces.map(({ frame, samples }) => ({ frame, samples: asText(samples) }));
    const page_ms = performance.now();
    const clock = { rate_hz: context.sampleRate, audio_s: clocks.audio_s(page_ms), server_ms: server.server_ms(page_ms), half_ms: server.half_ms };
    const body = JSON.stringify({ ...clock, sound, over });
    for (let i = 0; i < AGAIN; i += 1) {
      if (await taken(address("phone-sound", { take: this.take }), body)) return;
      await new Promise((then) => setTimeout(then, LOOK_MS));
    }
  }

  /** Hear the last of it, and send all. */
  async end() {
    await new Promise((then) => setTimeout(then, AFTER_MS));
    await microphone?.flush();
    this.off();
    await this.send(true);
    this.#packing.close();
  }
}

/** Post, and say whether it is settled: taken, or refused for good. @param {string} where @param {string} body */
async function taken(where, body) {
  const headers = { "Content-Type": "application/json", Accept: "application/json", "X-CSRFToken": csrfToken() };
  const response = await fetch(where, { method: "POST", headers, body, signal: AbortSignal.timeout(PATIENCE_MS) }).catch(() => null);
  return response !== null && (response.ok || [404, 409, 422].includes(response.status));
}

/** Look which take is played, and follow it. */
async function look() {
  const now = await server.ask(true);
  if (!now) return say("Giusto does not answer: it is asked again.");
  if (hearing && now.take !== hearing.take) {
    const over = hearing;
    hearing = null;
    await over.end();
  }
  if (now.take && !hearing && microphone) hearing = new Hearing(now.take, microphone);
  hearing?.send();
  say(hearing ? "A take is played: it is heard." : "Play on the other device: this one listens.");
}

async function listen() {
  const button = element("listen");
  button.setAttribute("disabled", "");
  try {
    await context.resume();
    microphone = await Microphone.open(context, JSON.parse(stage.dataset.ear ?? "{}"), stage.dataset.recorder ?? "");
    await clocks.run(new AbortController().signal);
    clocks.start();
  } catch (error) {
    button.removeAttribute("disabled");
    return say(refusal(error));
  }
  button.hidden = true;
  const canvas = element("strip");
  if (canvas instanceof HTMLCanvasElement) new Strip(canvas, microphone);
  microphone.lost = () => say("The microphone is gone: load this page again.");
  await navigator.wakeLock?.request("screen").catch(() => null);
  for (;;) {
    await look();
    await new Promise((then) => setTimeout(then, LOOK_MS));
  }
}

/** @param {string} text */
function say(text) {
  element("says").textContent = text;
}

/** @param {string} id */
function element(id) {
  return /** @type {HTMLElement} */ (document.getElementById(id));
}

/** @returns {import("./packing.js").From} */
function packer() {
  const { packer: worker = "", flac = "", flacCode = "" } = stage.dataset;
  return { packer: worker, script: flac, code: flacCode };
}

element("listen").addEventListener("click", listen);

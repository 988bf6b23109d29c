// The microphone, or the simulated instrument in its place, through one recorder: sound placed by frames.

import { StandIn } from "./standin.js";

const AHEAD_S = 10; // how much of what was heard is kept at hand
const FLUSH_MS = 400; // the recorder hands on its last samples within this

/** @typedef {{frame: number, samples: Int16Array}} Piece */

/** Why a microphone can't be had, in words. @type {Record<string, string>} */
const REFUSED = {
  NotAllowedError: "The browser may not use the microphone: allow it beside the address, and load this page again.",
  NotFoundError: "No microphone is here.",
  NotReadableError: "The microphone is in use by something else.",
  OverconstrainedError: "The microphone that was chosen is not here.",
};

/** @param {unknown} error @returns {string} */
export function refusal(error) {
  const name = error instanceof Error ? error.name : "";
  return REFUSED[name] ?? `The microphone gives no sound: ${error instanceof Error ? error.message : error}.`;
}

/** What is heard, in pieces. */
export class Microphone {
  /** @type {Piece[]} the newest seconds */
  #recent = [];
  /** @type {Set<(piece: Piece) => void>} */
  #listeners = new Set();
  /** @type {(() => void) | null} */
  #flushed = null;
  /** @type {StandIn | null} */
  standIn = null;
  label = "";
  lost = () => {};

  /** @param {AudioContext} context @param {AudioWorkletNode} recorder */
  constructor(context, recorder) {
    this.context = context;
    this.recorder = recorder;
    recorder.port.onmessage = ({ data }) => {
      if (data) this.#hear(data);
      else this.#flushed?.();
    };
  }

  /**
   * Open it.
   * @param {AudioContext} context
   * @param {import("./ear.js").EarPlan} ear
   * @param {string} script address of the recorder
   * @returns {Promise<Microphone>}
   * @throws where it can't be had
   */
  static async open(context, ear, script) {
    await context.audioWorklet.addModule(script);
    const options = { numberOfOutputs: 0, channelCount: 1, channelCountMode: /** @type {const} */ ("explicit") };
    const opened = new Microphone(context, new AudioWorkletNode(context, "recorder", options));
    if (ear.room) {
      opened.standIn = await StandIn.open(context, ear.room);
      opened.standIn.out.connect(opened.recorder);
      opened.label = ear.device;
    } else {
      await opened.#real(ear);
    }
    return opened;
  }

  /** @param {import("./ear.js").EarPlan} ear */
  async #real(ear) {
    if (!navigator.mediaDevices) throw new DOMException("only pages of this machine may hear", "NotFoundError");
    const wanted = { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: 1 };
    const deviceId = ear.microphone ? await idOf(ear.microphone) : undefined;
    const stream = await navigator.mediaDevices.getUserMedia({ audio: deviceId ? { ...wanted, deviceId } : wanted });
    const [track] = stream.getAudioTracks();
    this.label = track.label;
    track.addEventListener("ended", () => this.lost());
    this.context.createMediaStreamSource(stream).connect(this.recorder);
    this.close = () => track.stop();
  }

  close() {}

  /** Hear each piece from now on. @param {(piece: Piece) => void} listener @returns {() => void} the end of it */
  onPiece(listener) {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Wait until all that was heard so far has been handed on. */
  flush() {
    return new Promise((done) => {
      const timer = setTimeout(done, FLUSH_MS);
      this.#flushed = () => {
        clearTimeout(timer);
        done(undefined);
      };
      this.recorder.port.postMessage("flush");
    });
  }

  /** The newest seconds as one; gaps are silence. @param {number} seconds @returns {Piece} */
  recent(seconds) {
    const last = this.#recent.at(-1);
    if (!last) return { frame: 0, samples: new Int16Array(0) };
    const end = last.frame + last.samples.length;
    const first = Math.max(this.#recent[0].frame, end - Math.round(seconds * this.context.sampleRate));
    const samples = new Int16Array(end - first);
    for (const piece of this.#recent) {
      const skip = Math.max(0, first - piece.frame);
      if (skip < piece.samples.length) samples.set(piece.samples.subarray(skip), piece.frame + skip - first);
    }
    return { frame: first, samples };
  }

  /** @param {Piece} piece */
  #hear(piece) {
    this.#recent.push(piece);
    const oldest = piece.frame - AHEAD_S * this.context.sampleRate;
    while (this.#recent[0].frame < oldest) this.#recent.shift();
    for (const listener of this.#listeners) listener(piece);
  }
}

/** @param {string} label @returns {Promise<string | undefined>} */
async function idOf(label) {
  const devices = await navigator.mediaDevices.enumerateDevices();
  return devices.find((device) => device.kind === "audioinput" && device.label === label)?.deviceId;
}

/** Put a piece into a form for the server. @param {Piece} piece @param {number} rate */
export function soundForm(piece, rate) {
  const form = new FormData();
  form.set("sound", new Blob([/** @type {ArrayBuffer} */ (piece.samples.buffer)]), "sound");
  form.set("rate", String(rate));
  form.set("frame", String(piece.frame));
  return form;
}

/** Samples, or what was packed of them, as text for a batch. @param {Int16Array | Uint8Array} sound */
export function asText(sound) {
  const bytes = new Uint8Array(sound.buffer, sound.byteOffset, sound.byteLength);
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return btoa(text);
}

// MIDI in: note-ons of the chosen port and channel, pedals, and what becomes of a cable that is pulled.

import { StandInKeyboard, standInAccess } from "./standin.js";

const NOTE_ON = 0x90;
const CONTROL = 0xb0;
const DRUMS = 10; // the channel of percussion (General MIDI, from memory)
const PEDALS = [64, 65, 66, 67]; // sustain, portamento, sostenuto, soft (MIDI 1.0, from memory)

/** @typedef {{name: string | null, state: string} & EventTarget} Port */

/** One instrument that speaks MIDI. */
export class Midi {
  /** @type {StandInKeyboard | null} */
  standIn = null;
  label = "";
  /** What is done with a note: when and how strong, the pad that may stand for something, and what it is a note of. @type {(at_ms: number, strength: number, pad: string, source: string) => void} */
  onNote = () => {};
  /** @type {(pad: string) => void} */
  onPedal = () => {};
  lost = () => {};
  found = () => {};
  /** @type {WeakMap<Port, AbortController>} ports that are listened to */
  #heard = new WeakMap();

  /** @param {any} access @param {import("./ear.js").EarPlan} ear */
  constructor(access, ear) {
    this.access = access;
    this.ear = ear;
    this.#listen();
    access.addEventListener("statechange", () => this.#changed());
  }

  /** @param {import("./ear.js").EarPlan} ear @throws where there is none */
  static async open(ear) {
    if (ear.by === "stand-in-midi") {
      const keyboard = new StandInKeyboard();
      const opened = new Midi(standInAccess(keyboard), ear);
      opened.standIn = keyboard;
      return opened;
    }
    const ask = /** @type {any} */ (navigator).requestMIDIAccess;
    if (!ask) throw new Error("this browser knows no MIDI");
    const access = await ask.call(navigator).catch(() => {
      throw new Error("the browser may not use MIDI: allow it beside the address, and load this page again");
    });
    const opened = new Midi(access, ear);
    if (!opened.label) throw new Error(ear.port ? `“${ear.port}” is not plugged in` : "no MIDI instrument is plugged in");
    return opened;
  }

  /** The ports that count. @returns {Port[]} */
  get ports() {
    const all = /** @type {Port[]} */ ([...this.access.inputs.values()]);
    return all.filter((port) => port.state === "connected" && (!this.ear.port || port.name === this.ear.port));
  }

  #listen() {
    for (const port of this.ports) {
      if (this.#heard.has(port)) continue;
      const until = new AbortController();
      this.#heard.set(port, until);
      port.addEventListener("midimessage", (event) => this.#message(event, port), { signal: until.signal });
    }
    this.label = this.ports[0]?.name ?? "";
  }

  #changed() {
    const had = this.label;
    this.#listen();
    if (had && !this.label) this.lost();
    if (!had && this.label) this.found();
  }

  /** @param {any} event @param {Port} port */
  #message({ data, timeStamp }, port) {
    const [status, number, value] = data;
    const channel = (status & 0x0f) + 1;
    if (this.ear.channel && channel !== this.ear.channel) return;
    if ((status & 0xf0) === NOTE_ON && value > 0) {
      // Of several instruments at once each has its own pads: the first is the one without a number.
      const device = this.ports.indexOf(port) + 1;
      const source = `${channel === DRUMS ? "drum" : "note"}:${number}${device > 1 ? `/${device}` : ""}`;
      this.onNote(timeStamp, value / 127, `note:${number}`, source);
    }
    else if ((status & 0xf0) === CONTROL && PEDALS.includes(number) && value >= 64) this.onPedal(`pedal:${number}`);
  }
}

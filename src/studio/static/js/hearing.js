// By what the page hears: keys, a microphone, MIDI or a stand-in; keys go on working where nothing else does.

import { address } from "./addresses.js";
import { Microphone, refusal } from "./microphone.js";
import { Midi } from "./midi.js";
import { ServerClock } from "./server_clock.js";

/** What is heard, and by what. */
export class Hearing {
  /** @type {Microphone | null} */
  microphone = null;
  /** @type {Midi | null} */
  midi = null;
  /** The server's clock, where a phone of the player's hears. @type {ServerClock | null} */
  server = null;
  /** Why it is keys after all, in words. */
  problem = "";

  /** @param {import("./ear.js").EarPlan} ear */
  constructor(ear) {
    this.ear = ear;
    this.threshold_db = ear.threshold_db;
    this.refractory_s = ear.refractory_s;
  }

  /**
   * Open what the player chose; never fails: then keys are heard, and the problem is said.
   * @param {AudioContext | null} context needed for sound alone
   * @param {import("./ear.js").EarPlan} ear
   * @param {string} recorder address of the recorder's script
   */
  static async open(context, ear, recorder) {
    const opened = new Hearing(ear);
    try {
      if (context && (ear.by === "microphone" || ear.by === "stand-in")) opened.microphone = await Microphone.open(context, ear, recorder);
      if (ear.by === "phone") await opened.#byPhone();
      if (ear.by === "midi" || ear.by === "stand-in-midi") opened.midi = await Midi.open(ear);
    } catch (error) {
      const said = ear.by === "midi" || ear.by === "phone" ? `${error instanceof Error ? error.message : error}.` : refusal(error);
      opened.problem = `${said[0].toUpperCase()}${said.slice(1)} Keys and touch are heard meanwhile.`;
    }
    return opened;
  }

  /** Join clocks with the phone that listens. */
  async #byPhone() {
    const server = new ServerClock();
    const now = await server.join();
    if (!now) throw new Error("the phone’s sound can’t be joined, since Giusto does not answer");
    this.server = server;
    if (!now.listens) this.problem = `No phone listens yet: open ${location.host}${address("phone")} on it.`;
  }

  /** Whether keys and touches are notes. */
  get byKeys() {
    return !this.microphone && !this.midi && !this.server;
  }

  /** Whether notes are heard in sound, here or by a phone beside. */
  get bySound() {
    return this.microphone !== null || this.server !== null;
  }

  /** What a take says of it when it begins. */
  get told() {
    const by = this.byKeys ? "keys" : this.ear.by;
    const device = this.ear.device || (this.microphone?.label ?? this.midi?.label ?? "");
    const gate = this.microphone ? { threshold_db: this.threshold_db, refractory_s: this.refractory_s, keep: this.ear.keep } : {};
    return { by, device: this.byKeys ? "" : device.slice(0, 200), ...gate };
  }

  /** What a pad stands for is done by this; set by the page. @type {(name: string) => void} */
  onPad = () => {};

  /** Do what a pad, a note, a pedal or a key stands for. @param {string} pad @returns {boolean} whether it stands for something */
  pad(pad) {
    const name = Object.keys(this.ear.pads).find((one) => this.ear.pads[one] === pad);
    if (name) this.onPad(name);
    return name !== undefined;
  }

  /** Close what was opened. */
  close() {
    this.microphone?.close();
  }
}

// Stand-ins, marked as simulated: an instrument in a room for the microphone, a keyboard for MIDI.

import { address } from "./addresses.js";

const NOISE_S = 2; // of noise that repeats
const STRIKE_S = 0.02; // from a touch to its stroke

/** An instrument of our own making, in a room with the loudspeaker. */
export class StandIn {
  /** @type {AudioBuffer[]} */
  #strokes = [];
  #struck = 0;

  /** @param {AudioContext} context @param {import("./ear.js").Room} room */
  constructor(context, room) {
    this.context = context;
    this.room = room;
    this.out = new DelayNode(context, { delayTime: room.delay_s, maxDelayTime: 1 });
    this.instrument = new GainNode(context, { gain: room.gain });
    this.instrument.connect(this.out);
    this.loudspeaker = new GainNode(context, { gain: room.bleed });
    this.loudspeaker.connect(this.out);
  }

  /** @param {AudioContext} context @param {import("./ear.js").Room} room */
  static async open(context, room) {
    const made = new StandIn(context, room);
    const numbers = [...Array(room.variants).keys()];
    made.#strokes = await Promise.all(numbers.map((number) => made.#fetch(number)));
    made.#noise();
    return made;
  }

  /** Let the click's own sound into the room; its level here does not depend on how loud the player wants it. @param {GainNode} click @param {number} gain of a click */
  hear(click, gain) {
    this.loudspeaker.gain.value = gain > 0 ? this.room.bleed / gain : 0;
    click.connect(this.loudspeaker);
  }

  /** Play notes at moments of the audio clock. @param {number[]} times_s @param {number[]} strengths */
  play(times_s, strengths) {
    for (const [index, at_s] of times_s.entries()) this.#stroke(at_s, strengths[index]);
  }

  /** Strike once, now. @param {number} [strength] */
  strike(strength = 0.6) {
    this.#stroke(this.context.currentTime + STRIKE_S, strength);
  }

  /** @param {number} at_s @param {number} strength */
  #stroke(at_s, strength) {
    const source = new AudioBufferSourceNode(this.context, { buffer: this.#strokes[this.#struck % this.#strokes.length] });
    const way = new GainNode(this.context, { gain: strength });
    source.connect(way).connect(this.instrument);
    source.onended = () => way.disconnect();
    source.start(Math.max(at_s, 0));
    this.#struck += 1;
  }

  #noise() {
    const rate = this.context.sampleRate;
    const buffer = new AudioBuffer({ length: NOISE_S * rate, sampleRate: rate });
    const samples = buffer.getChannelData(0);
    for (let i = 0; i < samples.length; i += 1) {
      samples[i] = Math.sqrt(-2 * Math.log(1 - Math.random())) * Math.cos(2 * Math.PI * Math.random());
    }
    const source = new AudioBufferSourceNode(this.context, { buffer, loop: true });
    source.connect(new GainNode(this.context, { gain: this.room.noise })).connect(this.out);
    source.start();
  }

  /** @param {number} number */
  async #fetch(number) {
    const rate = this.context.sampleRate;
    const response = await fetch(address("stroke", { sound: this.room.sound, number, rate }));
    if (!response.ok) throw new Error(`the simulated instrument did not come (${response.status})`);
    const samples = new Float32Array(await response.arrayBuffer());
    const buffer = new AudioBuffer({ length: samples.length, sampleRate: rate });
    buffer.copyToChannel(samples, 0);
    return buffer;
  }
}

/** A MIDI keyboard that nobody plays: it looks to the page as the browser's own would. */
export class StandInKeyboard extends EventTarget {
  name = "simulated keyboard";
  type = "input";
  state = "connected";

  /** Press a key. @param {number} at_ms page time @param {number} [strength] @param {number} [note] */
  strike(at_ms, strength = 0.6, note = 60) {
    this.send([0x90, note, Math.max(1, Math.round(127 * strength))], at_ms);
    this.send([0x80, note, 0], at_ms + 40);
  }

  /** @param {number[]} data @param {number} at_ms */
  send(data, at_ms) {
    const event = Object.assign(new Event("midimessage"), { data: new Uint8Array(data) });
    Object.defineProperty(event, "timeStamp", { value: at_ms });
    this.dispatchEvent(event);
  }
}

/** What the browser's MIDI access would be, with one simulated keyboard. @param {StandInKeyboard} keyboard */
export function standInAccess(keyboard) {
  return Object.assign(new EventTarget(), { inputs: new Map([["simulated", keyboard]]) });
}

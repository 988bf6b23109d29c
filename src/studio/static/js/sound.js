// The click: the core's own sounds, their attack in the first sample, started on the audio clock.

import { address } from "./addresses.js";

const AHEAD_S = 2.5; // how far ahead clicks are handed to the audio clock
const KINDS = ["accent", "click", "count", "sub"];
const RATES_HZ = [44100, 48000]; // what the core renders

/** Return an audio context at a rate that the core renders; it stays silent until a click or key. */
export function newContext() {
  const context = new AudioContext({ latencyHint: "interactive" });
  if (RATES_HZ.includes(context.sampleRate)) return context;
  context.close();
  return new AudioContext({ latencyHint: "interactive", sampleRate: RATES_HZ[1] });
}

/** Return where a click goes: to the loudspeakers, or to one side of headphones. @param {AudioContext} context @param {string} side @returns {AudioNode} */
export function sided(context, side) {
  if (side !== "left" && side !== "right") return context.destination;
  const panner = new StereoPannerNode(context, { pan: side === "left" ? -1 : 1 });
  panner.connect(context.destination);
  return panner;
}

/**
 * Fetch the sounds of a voice.
 * @param {AudioContext} context
 * @param {string} voice
 * @returns {Promise<Record<string, AudioBuffer>>}
 */
export async function fetchSounds(context, voice) {
  const rate = context.sampleRate;
  const found = await Promise.all(
    KINDS.map(async (kind) => {
      const response = await fetch(address("click", { voice, kind, rate }));
      if (!response.ok) throw new Error(`the sound of the click did not come (${response.status})`);
      const samples = new Float32Array(await response.arrayBuffer());
      const buffer = new AudioBuffer({ length: samples.length, sampleRate: rate });
      buffer.copyToChannel(samples, 0);
      return [kind, buffer];
    }),
  );
  return Object.fromEntries(found);
}

/** Plays a schedule of clicks. */
export class Clicker {
  /**
   * @param {AudioContext} context
   * @param {[number, string][]} clicks seconds from the drill's time zero, and kind
   * @param {Record<string, AudioBuffer>} sounds
   * @param {Record<string, number>} gains of each kind
   * @param {string} [side] which ear it is in: both, left or right
   */
  constructor(context, clicks, sounds, gains, side = "both") {
    this.context = context;
    this.sounds = sounds;
    this.clicks = clicks;
    this.next = 0;
    this.zeroFrame = 0;
    /** @type {ReturnType<typeof setInterval> | undefined} */
    this.timer = undefined;
    this.out = new GainNode(context);
    this.out.connect(sided(context, side));
    /** @type {Record<string, GainNode>} */
    this.ways = Object.fromEntries(KINDS.map((kind) => [kind, new GainNode(context, { gain: gains[kind] })]));
    for (const way of Object.values(this.ways)) way.connect(this.out);
    /** @type {Set<AudioBufferSourceNode>} */
    this.started = new Set();
  }

  /** Be louder or softer from the next click on. @param {Record<string, number>} gains of each kind */
  setGains(gains) {
    for (const kind of KINDS) this.ways[kind].gain.value = gains[kind];
  }

  /** Fix time zero on a frame of the audio clock, and start. @param {number} delay_s */
  start(delay_s) {
    return this.startAt(this.context.currentTime + delay_s);
  }

  /** Fix time zero on the audio clock, perhaps in the past: clicks that are over by then are left out. @param {number} zero_s */
  startAt(zero_s) {
    const rate = this.context.sampleRate;
    this.zeroFrame = Math.round(zero_s * rate);
    while (this.next < this.clicks.length && this.zeroFrame / rate + this.clicks[this.next][0] < this.context.currentTime) this.next += 1;
    this.fill();
    this.timer = setInterval(() => this.fill(), 100);
    return this.zeroFrame / this.context.sampleRate;
  }

  /** Hand over the clicks of the next moments; a hidden tab is woken only once a second. */
  fill() {
    const rate = this.context.sampleRate;
    const until = this.context.currentTime + AHEAD_S;
    while (this.next < this.clicks.length) {
      const [time_s, kind] = this.clicks[this.next];
      const at_s = (this.zeroFrame + Math.round(time_s * rate)) / rate;
      if (at_s > until) return;
      const source = new AudioBufferSourceNode(this.context, { buffer: this.sounds[kind] });
      source.connect(this.ways[kind]);
      source.onended = () => this.started.delete(source);
      source.start(at_s);
      this.started.add(source);
      this.next += 1;
    }
  }

  /** Silence at once. */
  stop() {
    clearInterval(this.timer);
    for (const source of this.started) source.stop();
    this.out.disconnect();
  }
}

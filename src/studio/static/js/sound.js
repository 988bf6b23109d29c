// The click: the core's own sounds, their attack in the first sample, started on the audio clock.

import { address } from "./addresses.js";

const AHEAD_S = 2.5; // how far ahead clicks are handed to the audio clock
const KINDS = ["accent", "click", "count", "sub"];
const WORD = "word"; // the kind of what counts aloud, for how loud it is
const WORDS = "words"; // and its voice, where sounds are fetched
const RATES_HZ = [44100, 48000]; // what the core renders

/** @typedef {[number, string, string?]} Click seconds from time zero, kind, the word that counts it @typedef {{voice: string, accent_voice?: string}} Voices */

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
 * The sounds of a click, each by its name and where it is: its kinds, and the words that count it.
 * @param {Voices} delivery
 * @param {Click[]} clicks
 * @param {number} rate
 * @returns {[string, string][]}
 */
export function soundsOf({ voice, accent_voice }, clicks, rate) {
  const words = new Set(clicks.flatMap(([, , word]) => word || []));
  return [
    .../** @type {[string, string][]} */ (KINDS.map((kind) => [kind, address("click", { voice: (kind === "accent" && accent_voice) || voice, kind, rate })])),
    .../** @type {[string, string][]} */ ([...words].map((word) => [wordOf(word), address("click", { voice: WORDS, kind: word, rate })])),
  ];
}

/** The name of a word among sounds. @param {string} word */
const wordOf = (word) => `${WORDS}:${word}`;

/**
 * Fetch the sounds of a click.
 * @param {AudioContext} context
 * @param {Voices} delivery
 * @param {Click[]} [clicks] whose words are wanted as well
 * @returns {Promise<Record<string, AudioBuffer>>}
 */
export async function fetchSounds(context, delivery, clicks = []) {
  const rate = context.sampleRate;
  const found = await Promise.all(
    soundsOf(delivery, clicks, rate).map(async ([name, where]) => {
      const response = await fetch(where);
      if (!response.ok) throw new Error(`the sound of the click did not come (${response.status})`);
      const samples = new Float32Array(await response.arrayBuffer());
      const buffer = new AudioBuffer({ length: samples.length, sampleRate: rate });
      buffer.copyToChannel(samples, 0);
      return [name, buffer];
    }),
  );
  return Object.fromEntries(found);
}

/**
 * Let one click sound, and the word that counts it, whose onset comes with it.
 * @param {Record<string, AudioBuffer>} sounds
 * @param {string} kind
 * @param {string | undefined} word
 * @param {number} at_s on the audio clock
 * @param {(kind: string) => AudioNode} way where each kind goes
 * @param {number} lead_s how long before its onset a word begins
 * @returns {AudioBufferSourceNode[]}
 */
export function soundClick(sounds, kind, word, at_s, way, lead_s) {
  const made = [sounding(sounds[kind], way(kind), at_s)];
  const spoken = word && sounds[wordOf(word)];
  if (spoken) made.push(sounding(spoken, way(WORD), at_s - lead_s));
  return made;
}

/** @param {AudioBuffer} buffer @param {AudioNode} to @param {number} at_s */
function sounding(buffer, to, at_s) {
  const source = new AudioBufferSourceNode(/** @type {AudioContext} */ (to.context), { buffer });
  source.connect(to);
  source.start(at_s, Math.max(0, to.context.currentTime - at_s)); // what begins late begins within itself
  return source;
}

/** Plays a schedule of clicks. */
export class Clicker {
  /**
   * @param {AudioContext} context
   * @param {Click[]} clicks
   * @param {Record<string, AudioBuffer>} sounds
   * @param {Record<string, number>} gains of each kind
   * @param {{side?: string, word_lead_s?: number}} [how] which ear it is in, and how long before its onset a word begins
   */
  constructor(context, clicks, sounds, gains, { side = "both", word_lead_s = 0 } = {}) {
    this.word_lead_s = word_lead_s;
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
    this.ways = Object.fromEntries([...KINDS, WORD].map((kind) => [kind, new GainNode(context, { gain: gains[kind] })]));
    for (const way of Object.values(this.ways)) way.connect(this.out);
    /** @type {Set<AudioBufferSourceNode>} */
    this.started = new Set();
  }

  /** Be louder or softer from the next click on. @param {Record<string, number>} gains of each kind */
  setGains(gains) {
    for (const kind of [...KINDS, WORD]) this.ways[kind].gain.value = gains[kind];
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
      const [time_s, kind, word] = this.clicks[this.next];
      const at_s = (this.zeroFrame + Math.round(time_s * rate)) / rate;
      if (at_s > until) return;
      for (const source of soundClick(this.sounds, kind, word, at_s, (name) => this.ways[name], this.word_lead_s)) {
        source.onended = () => this.started.delete(source);
        this.started.add(source);
      }
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

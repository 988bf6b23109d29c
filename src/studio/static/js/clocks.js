// The audio clock against the page's clock, sampled as pairs. The server fits the line through them.

const SAMPLE_MS = 100;
const KEEP_RECENT = 7;

/** Pairs of (audio time, page time) of one audio context. */
export class ClockPairs {
  /** @param {AudioContext} context */
  constructor(context) {
    this.context = context;
    /** @type {number[][]} pairs since the last take() */
    this.fresh = [];
    /** @type {number[]} offsets, ms, of the latest pairs */
    this.offsets = [];
  }

  /** Look at both clocks once. */
  sample() {
    const { contextTime, performanceTime } = this.context.getOutputTimestamp();
    if (!contextTime || !performanceTime) return;
    this.fresh.push([contextTime, performanceTime]);
    this.offsets.push(performanceTime - contextTime * 1000);
    if (this.offsets.length > KEEP_RECENT) this.offsets.shift();
  }

  /** Look at both clocks ten times a second: a busy machine's sound may fall behind. */
  start() {
    this.timer = setInterval(() => this.sample(), SAMPLE_MS);
  }

  /** Look no more. */
  stop() {
    clearInterval(this.timer);
  }

  /** Give the pairs since the last call. */
  take() {
    return this.fresh.splice(0);
  }

  /** Whether the audio clock is known to run. */
  get ready() {
    return this.offsets.length >= 3;
  }

  /** The page time, ms, at which a moment of audio time is heard. @param {number} audio_s */
  page_ms(audio_s) {
    const sorted = [...this.offsets].sort((a, b) => a - b);
    return audio_s * 1000 + sorted[sorted.length >> 1];
  }
}

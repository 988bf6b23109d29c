// The audio clock against the page's clock, sampled as pairs. The server fits the line through them.

const SAMPLE_MS = 100;
const KEEP_RECENT = 7;
const LOOK_MS = 20; // between looks at a clock that is to start
const PATIENCE_MS = 4000; // a clock that has not moved by then stands still

/** Pairs of (audio time, page time) of one audio context. */
export class ClockPairs {
  /** @type {number[][]} pairs since the last take() */
  #fresh = [];
  /** @type {number[]} offsets, ms, of the latest pairs */
  #offsets = [];
  /** @type {ReturnType<typeof setInterval> | undefined} */
  #timer;

  /** @param {AudioContext} context */
  constructor(context) {
    this.context = context;
  }

  /** Look at both clocks once. */
  sample() {
    const { contextTime, performanceTime } = this.context.getOutputTimestamp();
    if (!contextTime || !performanceTime) return;
    this.#fresh.push([contextTime, performanceTime]);
    this.#offsets.push(performanceTime - contextTime * 1000);
    if (this.#offsets.length > KEEP_RECENT) this.#offsets.shift();
  }

  /** Look until the audio clock is known to run. @param {AbortSignal} signal @throws where it stands still */
  async run(signal) {
    const until = performance.now() + PATIENCE_MS;
    while (this.#offsets.length < 3) {
      if (signal.aborted) return;
      if (performance.now() > until) throw new Error("the sound of this browser stands still");
      this.sample();
      await new Promise((done) => setTimeout(done, LOOK_MS));
    }
  }

  /** Look at both clocks ten times a second: a busy machine's sound may fall behind. */
  start() {
    this.#timer ??= setInterval(() => this.sample(), SAMPLE_MS);
  }

  /** Look no more. */
  stop() {
    clearInterval(this.#timer);
    this.#timer = undefined;
  }

  /** Give the pairs since the last call. */
  take() {
    return this.#fresh.splice(0);
  }

  /** The page time, ms, at which a moment of audio time is heard. @param {number} audio_s */
  page_ms(audio_s) {
    return audio_s * 1000 + this.#offset_ms;
  }

  /** The moment of audio time that is heard at a page time. @param {number} page_ms */
  audio_s(page_ms) {
    return (page_ms - this.#offset_ms) / 1000;
  }

  get #offset_ms() {
    const sorted = [...this.#offsets].sort((a, b) => a - b);
    return sorted[sorted.length >> 1] ?? NaN;
  }
}

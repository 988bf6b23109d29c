// The click: short sounds with their attack in the first sample, started on the audio clock.

const AHEAD_S = 1.0; // how far ahead clicks are handed to the audio clock
const LEVEL = 0.35; // soft; a player can turn it up outside
const LENGTH_S = 0.06;

/** Pitch (Hz), decay (s) and level of each kind of click. */
const KINDS = {
  accent: { pitch_hz: 1760, decay_s: 0.012, level: 1.0 },
  click: { pitch_hz: 1175, decay_s: 0.012, level: 0.8 },
  count: { pitch_hz: 1175, decay_s: 0.012, level: 0.8 },
};

/** Plays a schedule of clicks. */
export class Clicker {
  /**
   * @param {AudioContext} context
   * @param {[number, keyof KINDS][]} clicks seconds from the drill's time zero, and kind
   */
  constructor(context, clicks) {
    this.context = context;
    this.clicks = clicks;
    this.next = 0;
    this.out = new GainNode(context, { gain: LEVEL });
    this.out.connect(context.destination);
    this.buffers = Object.fromEntries(Object.keys(KINDS).map((kind) => [kind, tone(context, kind)]));
    /** @type {Set<AudioBufferSourceNode>} */
    this.started = new Set();
  }

  /** Fix time zero on a frame of the audio clock, and start. @param {number} delay_s */
  start(delay_s) {
    this.zeroFrame = Math.round((this.context.currentTime + delay_s) * this.context.sampleRate);
    this.fill();
    this.timer = setInterval(() => this.fill(), 100);
    return this.zeroFrame / this.context.sampleRate;
  }

  /** Hand over the clicks of the next second. */
  fill() {
    const rate = this.context.sampleRate;
    const until = this.context.currentTime + AHEAD_S;
    while (this.next < this.clicks.length) {
      const [time_s, kind] = this.clicks[this.next];
      const at_s = (this.zeroFrame + Math.round(time_s * rate)) / rate;
      if (at_s > until) return;
      const source = new AudioBufferSourceNode(this.context, { buffer: this.buffers[kind] });
      source.connect(this.out);
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

/** @param {BaseAudioContext} context @param {string} kind */
function tone(context, kind) {
  const { pitch_hz, decay_s, level } = KINDS[kind];
  const rate = context.sampleRate;
  const buffer = new AudioBuffer({ length: Math.ceil(LENGTH_S * rate), sampleRate: rate });
  const samples = buffer.getChannelData(0);
  for (let n = 0; n < samples.length; n += 1) {
    const t = n / rate;
    const tail = Math.min(1, (LENGTH_S - t) / 0.01);
    const partials = Math.cos(2 * Math.PI * pitch_hz * t) + 0.4 * Math.cos(2 * Math.PI * pitch_hz * 2.76 * t);
    samples[n] = (level / 1.4) * tail * Math.exp(-t / decay_s) * partials;
  }
  return buffer;
}

// The recorder: an audio worklet that hands on what it hears in pieces, each with the frame of its first sample.

const PIECE = 4096; // samples: 85 ms at 48 kHz

/** The worklet's own world, which the page's types do not know. @type {any} */
const world = globalThis;

class Recorder extends world.AudioWorkletProcessor {
  constructor() {
    super();
    this.samples = new Int16Array(PIECE);
    this.first = 0;
    this.at = 0;
    this.port.onmessage = () => {
      this.hand();
      this.port.postMessage(null); // all that was heard is handed on
    };
  }

  /** Hand on what there is. */
  hand() {
    if (this.at) this.port.postMessage({ frame: this.first, samples: this.samples.slice(0, this.at) });
    this.at = 0;
  }

  /** @param {Float32Array[][]} inputs */
  process([[heard]]) {
    const frame = world.currentFrame;
    if (!heard || this.first + this.at !== frame) this.hand(); // a gap: what follows is placed by its own frame
    if (!heard) return true;
    if (!this.at) this.first = frame;
    for (let i = 0; i < heard.length; i += 1) {
      this.samples[this.at] = Math.round(32767 * Math.max(-1, Math.min(1, heard[i])));
      this.at += 1;
      if (this.at === PIECE) {
        this.hand();
        this.first = frame + i + 1;
      }
    }
    return true;
  }
}

world.registerProcessor("recorder", Recorder);

// The sound as a quiet strip: how loud the last seconds were, drawn as they come.

const SECONDS = 4;
const FLOOR_DB = -60;

/** Draws what a microphone hears on a canvas, until it is stopped. */
export class Strip {
  /** @type {number[]} peaks, dB, newest last */
  #peaks = [];
  #off = () => {};

  /** @param {HTMLCanvasElement} canvas @param {import("./microphone.js").Microphone} microphone */
  constructor(canvas, microphone) {
    this.canvas = canvas;
    this.#off = microphone.onPiece((piece) => {
      const peak = piece.samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 1) / 32767;
      this.#peaks.push(20 * Math.log10(peak));
      const most = Math.ceil((SECONDS * microphone.context.sampleRate) / 4096);
      this.#peaks.splice(0, this.#peaks.length - most);
      this.draw(most);
    });
  }

  /** @param {number} most pieces across the strip */
  draw(most) {
    const { canvas } = this;
    const ratio = devicePixelRatio || 1;
    canvas.width = canvas.clientWidth * ratio;
    canvas.height = canvas.clientHeight * ratio;
    const pen = canvas.getContext("2d");
    if (!pen) return;
    const style = getComputedStyle(canvas);
    pen.fillStyle = style.color;
    const step = canvas.width / most;
    const middle = canvas.height / 2;
    pen.fillRect(0, middle - ratio / 2, canvas.width, ratio);
    for (const [index, peak] of this.#peaks.entries()) {
      const half = Math.max(0, (peak - FLOOR_DB) / -FLOOR_DB) * middle;
      pen.fillRect((most - this.#peaks.length + index) * step, middle - half, Math.max(step - 2 * ratio, ratio), 2 * half);
    }
  }

  /** Draw no more. */
  stop() {
    this.#off();
  }
}

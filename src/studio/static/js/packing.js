// Sound on its way to the server: packed without loss by a worker, as it is where that can't be.

/** @typedef {import("./microphone.js").Piece} Piece @typedef {{packer: string, script: string, code: string}} From */

const PATIENCE_MS = 8000; // a worker that has not answered by then answers no more
const MOST = 65_536; // samples of one packed piece
const SOME = 16;

/** Packs sound, as long as its worker lives. */
export class Packing {
  /** @type {Worker | null} */
  #worker = null;
  /** @type {Map<number, (flac: Uint8Array | null) => void>} */
  #waiting = new Map();
  #count = 0;

  /** @param {From | null} from addresses of the worker, the library and its compiled code @param {number} rate */
  constructor(from, rate) {
    this.from = from;
    this.rate = rate;
    if (!from) return;
    try {
      this.#worker = new Worker(from.packer);
    } catch {
      return;
    }
    this.#worker.onerror = () => this.close();
    this.#worker.onmessage = ({ data }) => {
      if (!data.flac) return this.close();
      this.#waiting.get(data.id)?.(data.flac);
      this.#waiting.delete(data.id);
    };
    this.#packed(new Int16Array(SOME)); // so that the library is there before the first sound is
  }

  /**
   * Pack pieces; null where that can't be.
   * @param {Piece[]} pieces
   * @returns {Promise<{frame: number, flac: Uint8Array}[] | null>}
   */
  async pack(pieces) {
    const found = [];
    for (const { frame, samples } of runs(pieces)) {
      const flac = await this.#packed(samples);
      if (!flac) return null;
      found.push({ frame, flac });
    }
    return found;
  }

  /** Pack nothing any more. */
  close() {
    this.#worker?.terminate();
    this.#worker = null;
    for (const answer of this.#waiting.values()) answer(null);
    this.#waiting.clear();
  }

  /** @param {Int16Array} samples @returns {Promise<Uint8Array | null>} */
  #packed(samples) {
    const worker = this.#worker;
    if (!worker) return Promise.resolve(null);
    const id = (this.#count += 1);
    return new Promise((answer) => {
      const timer = setTimeout(() => this.close(), PATIENCE_MS);
      this.#waiting.set(id, (flac) => {
        clearTimeout(timer);
        answer(flac);
      });
      worker.postMessage({ id, from: this.from, samples, rate: this.rate }, [samples.buffer]);
    });
  }
}

/** Pieces that follow each other without a gap, as one each. @param {Piece[]} pieces @returns {Piece[]} */
function runs(pieces) {
  /** @type {Piece[][]} */
  const found = [];
  let [end, size] = [-1, 0];
  for (const piece of pieces) {
    if (piece.frame !== end || size + piece.samples.length > MOST) {
      found.push([]);
      size = 0;
    }
    found[found.length - 1].push(piece);
    end = piece.frame + piece.samples.length;
    size += piece.samples.length;
  }
  return found.map(whole);
}

/** @param {Piece[]} run @returns {Piece} */
function whole(run) {
  const [{ frame }] = run;
  const samples = new Int16Array(run.reduce((size, piece) => size + piece.samples.length, 0));
  for (const piece of run) samples.set(piece.samples, piece.frame - frame);
  return { frame, samples };
}

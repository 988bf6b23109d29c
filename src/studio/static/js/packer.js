// A worker of the play page: sound of 16 bits becomes FLAC here, so that neither the audio thread nor the page waits.

const LEVEL = 5; // libFLAC's own default
const BITS = 16;

/** The worker's own world, and libflac.js in it, which the page's types do not know. @type {any} */
const here = globalThis;

/** @type {Promise<any> | undefined} */
let opening;

/** Load the library. @param {{script: string, code: string}} from addresses of its script and of its compiled code */
function library({ script, code }) {
  opening ??= new Promise((ready, failed) => {
    here.FLAC_SCRIPT_LOCATION = { "libflac.min.wasm.wasm": code };
    try {
      here.importScripts(script);
    } catch (error) {
      return failed(error);
    }
    if (here.Flac.isReady()) ready(here.Flac);
    else here.Flac.on("ready", () => ready(here.Flac));
  });
  return opening;
}

/** Pack samples as one FLAC file. @param {any} Flac @param {Int16Array} samples @param {number} rate @returns {Uint8Array<ArrayBuffer>} */
function packed(Flac, samples, rate) {
  const encoder = Flac.create_libflac_encoder(rate, 1, BITS, LEVEL, samples.length, false, 0);
  /** @type {Uint8Array[]} */
  const parts = [];
  const keep = (/** @type {Uint8Array} */ bytes) => parts.push(bytes.slice());
  try {
    if (Flac.init_encoder_stream(encoder, keep) !== 0) throw new Error("the encoder does not begin");
    if (!Flac.FLAC__stream_encoder_process_interleaved(encoder, Int32Array.from(samples), samples.length)) {
      throw new Error("the encoder takes no samples");
    }
    Flac.FLAC__stream_encoder_finish(encoder);
  } finally {
    Flac.FLAC__stream_encoder_delete(encoder);
  }
  const whole = new Uint8Array(parts.reduce((size, part) => size + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

here.onmessage = async (/** @type {MessageEvent} */ { data: { id, from, samples, rate } }) => {
  const flac = await library(from).then((Flac) => packed(Flac, samples, rate)).catch(() => null);
  here.postMessage({ id, flac });
};

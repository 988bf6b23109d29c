"""Scripts that watch the page from inside: the sound it makes, and when it changes."""

# Every context's output also runs through a worklet that notes the frame of each click's first
# sample: after 20 ms of silence, the first sample that is not zero. Frames are the audio clock's own.
CAPTURE_CLICKS = """
(() => {
  const source = `
    class Watch extends AudioWorkletProcessor {
      constructor() { super(); this.quiet = 1e9; }
      process(inputs) {
        const input = inputs[0][0];
        for (let i = 0; i < 128; i += 1) {
          const sounds = input && input[i] !== 0;
          if (sounds && this.quiet > 0.02 * sampleRate) this.port.postMessage(currentFrame + i);
          this.quiet = sounds ? 0 : this.quiet + 1;
        }
        return true;
      }
    }
    registerProcessor("watch", Watch);`;
  const Real = window.AudioContext;
  window.heardFrames = [];
  window.AudioContext = class extends Real {
    constructor(options) {
      super(options);
      window.context = this;
      const url = URL.createObjectURL(new Blob([source], { type: "text/javascript" }));
      window.watching = this.audioWorklet.addModule(url).then(() => {
        const watch = new AudioWorkletNode(this, "watch");
        watch.port.onmessage = (event) => window.heardFrames.push(event.data);
        window.watch = watch;
        for (const gain of window.gains) gain.connect(watch);
      });
    }
  };
  window.gains = [];
  const connect = AudioNode.prototype.connect;
  AudioNode.prototype.connect = function (to, ...rest) {
    if (this instanceof GainNode && to instanceof AudioDestinationNode) {
      window.gains.push(this);
      if (window.watch) connect.call(this, window.watch);
    }
    return connect.call(this, to, ...rest);
  };
})();
"""

# Notes the drill time of every change of the document, by the clocks as they stood at that moment:
# on a machine without a sound device a starved audio thread makes the audio clock fall behind.
WATCH_CHANGES = """
window.changes = [];
new MutationObserver((records) => {
  for (const record of records) {
    const zero_ms = window.giusto?.zero_s ? window.giusto.page_ms(0) : Infinity;
    const time_s = (performance.now() - zero_ms) / 1000;
    window.changes.push([Math.max(time_s, -1), record.type, record.target.id || record.target.nodeName]);
  }
}).observe(document, { subtree: true, childList: true, attributes: true, characterData: true });
"""

# Stands in for a sound device whose clock runs steadily, with the rate and the scatter that real ones
# were measured to have: without a device, a busy machine's audio clock falls behind by seconds.
STEADY_CLOCK = """
(() => {
  const RATE = 1 + 2e-5, SCATTER_MS = 0.04, OUTLIER_MS = 2, OUTLIERS = 0.01;
  let seed = 1;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const normal = () => Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());
  window.steady = (page_ms) => 3 + (page_ms * RATE) / 1000;
  window.AudioContext = class extends window.AudioContext {
    get currentTime() { return window.steady(performance.now()); }
    getOutputTimestamp() {
      const performanceTime = performance.now();
      const off_ms = random() < OUTLIERS ? OUTLIER_MS : SCATTER_MS * normal();
      return { contextTime: window.steady(performanceTime) + off_ms / 1000, performanceTime };
    }
  };
})();
"""

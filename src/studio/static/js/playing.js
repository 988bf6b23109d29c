// One take while it sounds: the click, the notes, the page, the sending.

import { address } from "./addresses.js";
import { Capture } from "./capture.js";
import { ClockPairs } from "./clocks.js";
import { Ledger } from "./ledger.js";
import { csrfToken, lockName, sendTake } from "./outbox.js";
import { element, Page } from "./page.js";
import { Packing } from "./packing.js";
import { Clicker, fetchSounds } from "./sound.js";

const LEAD_S = 0.5; // from the start to the first click
const SOON_S = 0.12; // to the first click after strokes
const SOON_MS = 20; // nearer than this, a moment has come
const HEARD_MS = 400; // between two questions whether the worker has heard a silence
const MOST_ASKED = 12;

/** A take being played. */
export class Playing {
  /** @type {Set<ReturnType<typeof setTimeout>>} */
  #timers = new Set();
  /** @type {Promise<unknown> | null} */
  #sending = null;
  #unlock = () => {};
  #off = () => {};
  #keysToo = false;
  /** @type {WakeLockSentinel | null | undefined} */
  #wakeLock;

  /**
   * @param {import("./page.js").Playback} plan
   * @param {AudioContext} context
   * @param {import("./hearing.js").Hearing} hearing
   * @param {ClockPairs} clocks
   * @param {(event: "complete" | "broken") => void} tell the page's machine what happened by itself
   */
  constructor(plan, context, hearing, clocks, tell) {
    this.plan = plan;
    this.context = context;
    this.hearing = hearing;
    this.tell = tell;
    this.clocks = clocks;
    this.zero_s = 0;
    this.ledger = new Ledger(this.#newTake());
    this.packing = new Packing(hearing.microphone ? packer() : null, context.sampleRate);
    this.page = new Page(plan, (time_s) => this.page_ms(time_s));
  }

  /**
   * Get everything ready, then let the click begin; nothing sounds before all else stands.
   * @param {Promise<Record<string, AudioBuffer>>} sounds
   * @param {AbortSignal} signal that the player has thought better of it
   * @param {import("./strokes.js").Counted | null} counted strokes that count it in
   */
  async start(sounds, signal, counted) {
    await this.context.resume();
    await this.clocks.run(signal);
    this.clocks.take(); // what was looked at before belongs to no take
    const { clicks, delivery } = this.plan;
    const found = await sounds.catch(() => fetchSounds(this.context, delivery, clicks));
    await this.#lock();
    this.clicker = new Clicker(this.context, clicks, found, delivery.gains, delivery);
    this.zero_s = counted ? this.clicker.startAt(this.#countedZero(counted)) : this.clicker.start(LEAD_S);
    Object.assign(this.ledger.take.begin, { zero_audio_s: this.zero_s, started_at: new Date().toISOString() });
    const { server } = this.hearing;
    if (server) Object.assign(this.ledger.take.begin.device, { zero_server_ms: server.server_ms(this.page_ms(0)), zero_half_ms: server.half_ms });
    await this.ledger.save();
    if (signal.aborted) return this.halt();
    const listen = !this.plan.notes_s && this.hearing.byKeys;
    this.capture = new Capture(this.ledger, this.clocks, { listen, packing: this.packing, closed: () => this.send() });
    this.#hear();
    this.page.start();
    this.#await(this.plan.end_s, () => this.tell("complete"));
    this.#awaitReturn(0);
    this.#awaitParted(0);
    if (this.plan.notes_s && !this.hearing.microphone) this.#simulate(0);
    this.context.onstatechange = () => this.context.state !== "running" && this.tell("broken");
    this.#wakeLock = await navigator.wakeLock?.request("screen").catch(() => null);
  }

  /** Page time, ms, of a drill time. @param {number} time_s */
  page_ms(time_s) {
    return this.clocks.page_ms(this.zero_s + time_s);
  }

  /** Be louder or softer from the next click on. @param {Record<string, number>} gains of each kind */
  setGains(gains) {
    this.clicker?.setGains(gains);
  }

  /** Drill time zero on the audio clock, so that the strokes are its pulse: its count-in where they can be, else it follows. @param {import("./strokes.js").Counted} counted */
  #countedZero({ last_ms }) {
    const { beat_s, count_beats, ear } = this.plan;
    const counted = Math.min(ear.strokes, count_beats);
    const first_ms = last_ms + 1000 * beat_s - 1000 * beat_s * counted;
    const soon_ms = performance.now() + 1000 * SOON_S;
    const first_click_ms = first_ms + 1000 * beat_s * counted;
    // Too late for that, on a page that was opened by the strokes: the whole count-in, in their pulse.
    const late = first_click_ms < soon_ms ? Math.ceil((soon_ms - first_ms) / (1000 * beat_s)) : 0;
    return this.clocks.audio_s(first_ms + 1000 * beat_s * late);
  }

  /** Take the notes from whatever hears them; what goes lost is said when a click next sounds, and keys go on. */
  #hear() {
    const { microphone, midi } = this.hearing;
    if (microphone) {
      this.#off = microphone.onPiece((piece) => this.capture?.sound(piece));
      microphone.lost = () => this.#lost("The microphone is gone: keys and touch are heard from here on.");
      if (microphone.standIn && this.clicker) {
        const { notes_s = [], strengths = [], delivery } = this.plan;
        microphone.standIn.hear(this.clicker.out, delivery.gains.click);
        microphone.standIn.play(notes_s.map((time_s) => this.zero_s + time_s), strengths);
      }
    }
    if (midi) {
      midi.onNote = (at_ms, strength, pad, source) => {
        if (!this.hearing.pad(pad)) this.capture?.note(at_ms, source, strength);
      };
      midi.onPedal = (pad) => this.hearing.pad(pad);
      midi.lost = () => this.#lost("The MIDI instrument was unplugged: keys and touch are heard too.");
      midi.found = () => this.page.later(() => (element("status").textContent = "The MIDI instrument is back."));
    }
  }

  /** @param {string} said */
  #lost(said) {
    if (!this.#keysToo) this.capture?.listenToKeys();
    this.#keysToo = true;
    this.page.later(() => (element("status").textContent = said));
  }

  /** Silence, and change nothing more on the page. */
  halt() {
    this.context.onstatechange = null;
    this.clicker?.stop();
    this.page.stop();
    for (const timer of this.#timers) clearTimeout(timer);
    this.#timers.clear();
    this.#wakeLock?.release();
  }

  /** Keep the take as it is now; what fails at its end loses nothing of what came before. @param {"complete" | "stopped" | "broken"} how */
  async end(how) {
    this.halt();
    try {
      await this.hearing.microphone?.flush();
      this.#off();
      await this.capture?.stop();
    } finally {
      const { take } = this.ledger;
      take.ended = { how, batches: take.count };
      await this.ledger.save();
    }
  }

  /** Forget the take, here and there. */
  async discard() {
    this.halt();
    this.#off();
    await this.capture?.stop();
    this.ledger.take.discarded = true;
    await this.ledger.save();
    await this.#sending;
    await sendTake(this.ledger).catch(() => {});
  }

  /** Send what is full; one sending at a time, failures wait for the next. */
  async send() {
    this.#sending ??= sendTake(this.ledger).catch(() => "").finally(() => (this.#sending = null));
    await this.#sending;
    if (this.ledger.failing) this.page.later(() => warn(this.ledger.failing));
  }

  /** Send all of an ended take. @returns {Promise<string>} the address of its reading, "" where it was refused */
  async sendAll() {
    await this.#sending;
    const reading = await sendTake(this.ledger);
    this.#unlock();
    return reading;
  }

  /** @returns {import("./store.js").Kept} */
  #newTake() {
    const { drill, origin, input, simulated, player, delivery } = this.plan;
    const device = {
      browser: navigator.userAgent.slice(0, 400),
      sample_rate_hz: this.context.sampleRate,
      base_latency_s: this.context.baseLatency,
      output_latency_s: this.context.outputLatency ?? null,
      isolated: globalThis.crossOriginIsolated,
      voice: delivery.voice,
      counted: delivery.counted,
      click_gain: delivery.gains.click,
      heard: delivery.heard,
      seen: delivery.seen,
      felt: delivery.felt,
    };
    const { told } = this.hearing;
    const heardBy = simulated || !this.hearing.byKeys ? input : "keys"; // what was chosen may not be here
    const hearing = simulated && this.hearing.byKeys ? {} : { hearing: told };
    const begin = { drill, origin, input: heardBy, device, ...hearing, ...(simulated ? { simulated } : {}) };
    const id = crypto.randomUUID();
    return { id, player, begin, begun: false, count: 0, ended: null, discarded: false, refused: "" };
  }

  /** Hold the take's lock before it is written down, so that no other page takes it for left behind. */
  #lock() {
    return new Promise((held) => {
      navigator.locks.request(lockName(this.ledger.take.id), () => {
        held(undefined);
        return new Promise((free) => (this.#unlock = () => free(undefined)));
      });
    });
  }

  /** Call back at a drill time; sound that falls behind takes it along. @param {number} time_s @param {() => void} then */
  #await(time_s, then) {
    const behind_ms = 1000 * (this.zero_s + time_s - this.context.currentTime);
    const wait_ms = Math.max(this.page_ms(time_s) - performance.now(), Math.min(behind_ms, SOON_MS));
    const timer = setTimeout(() => {
      this.#timers.delete(timer);
      if (wait_ms > 0) this.#await(time_s, then);
      else then();
    }, Math.max(0, wait_ms));
    this.#timers.add(timer);
  }

  /** After each return, fetch how the silence came out; it is shown when a click next sounds. @param {number} index */
  #awaitReturn(index) {
    const silence = this.plan.silences[index];
    if (!silence) return;
    this.#await(silence[1] + this.plan.settle_s, () => {
      this.#fetchSilence(index + 1);
      this.#awaitReturn(index + 1);
    });
  }

  /** After each cycle of a click that climbs, ask whether it and the notes have parted: then nothing more is to be known. @param {number} index */
  #awaitParted(index) {
    const end_s = this.plan.cycle_ends[index];
    if (end_s === undefined) return;
    this.#await(end_s + this.plan.settle_s, async () => {
      this.#awaitParted(index + 1);
      await this.capture?.close();
      await this.send();
      const where = `${address("parted", { take: this.ledger.take.id })}?at=${end_s}`;
      const response = await fetch(where).catch(() => null);
      if (response?.ok && (await response.json()).parted) this.tell("complete");
    });
  }

  /** @param {number} number */
  async #fetchSilence(number) {
    await this.capture?.close();
    await this.send();
    const response = await this.#asked(address("silence", { take: this.ledger.take.id, number }));
    if (response?.status !== 200) return;
    const found = new DOMParser().parseFromString(await response.text(), "text/html");
    this.page.later(() => {
      for (const part of found.querySelectorAll("[data-part]")) {
        element(part.getAttribute("data-part") ?? "").replaceChildren(part);
      }
      this.page.moveBar();
    });
  }

  /** Ask how a silence came out; one in sound is heard by the worker first. @param {string} where */
  async #asked(where) {
    const ask = () => fetch(where).catch(() => null);
    if (!this.hearing.bySound) return ask();
    await fetch(where, { method: "POST", headers: { "X-CSRFToken": csrfToken() } }).catch(() => null);
    let response = await ask();
    for (let asked = 1; response?.status === 202 && asked < MOST_ASKED; asked += 1) {
      await new Promise((then) => setTimeout(then, HEARD_MS));
      response = await ask();
    }
    return response;
  }

  /** Play the simulated player's notes in real time, through the same capture. @param {number} index */
  #simulate(index) {
    const notes_s = this.plan.notes_s ?? [];
    let next = index;
    // All that are due at once: a busy machine wakes the page late, and the end must not come first.
    for (; next < notes_s.length && this.page_ms(notes_s[next]) <= performance.now(); next += 1) {
      const at_ms = this.page_ms(notes_s[next]);
      const keyboard = this.hearing.midi?.standIn;
      if (keyboard) keyboard.strike(at_ms, this.plan.strengths?.[next]);
      else this.capture?.note(at_ms, "simulated");
    }
    if (next >= notes_s.length) return;
    const timer = setTimeout(() => {
      this.#timers.delete(timer);
      this.#simulate(next);
    }, Math.max(0, this.page_ms(notes_s[next]) - performance.now()));
    this.#timers.add(timer);
  }
}

/** Where what packs sound is. @returns {import("./packing.js").From} */
function packer() {
  const { packer: worker = "", flac = "", flacCode = "" } = element("stage").dataset;
  return { packer: worker, script: flac, code: flacCode };
}

/** Say that this browser's own store does not work. @param {boolean} failing */
function warn(failing) {
  element("status").textContent = failing ? "This browser keeps nothing itself: notes go straight to Giusto." : "";
}

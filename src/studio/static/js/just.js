// Just the click: it runs, round after round, until it is stopped; each change of the page acts at its next click.

import { fetchSounds, newContext, sided, soundClick } from "./sound.js";

const LEAD_S = 0.15; // to the first click
const AHEAD_S = 0.12; // how far ahead clicks are handed over while the page is seen: a change acts soon
const HIDDEN_AHEAD_S = 1.6; // and while it is hidden: then it is woken once a second
const WAKE_MS = 30;
const SEEN_MS = 90;
/** @type {Record<string, number>} */
const FELT_MS = { accent: 40, click: 25, sub: 12 };

/**
 * @typedef {{beats: number, clicks: import("./sound.js").Click[]}} Round
 * @typedef {{beat_s: number, plain: Round, dropping: Round}} Pattern
 */

/** How the click reaches the player, as the page says it now. */
export function delivery() {
  const { voice = "", accentVoice, side = "both", gains = "{}", counted, wordLead, seen, felt } = document.getElementById("delivery")?.dataset ?? {};
  return {
    voice,
    accent_voice: accentVoice || voice,
    side,
    gains: /** @type {Record<string, number>} */ (JSON.parse(gains)),
    counted: counted === "yes",
    word_lead_s: Number(wordLead ?? 0),
    seen: seen === "yes",
    felt: felt === "yes",
  };
}

/** The click by itself. */
class Just {
  /** @param {AudioContext} context */
  constructor(context) {
    this.context = context;
    this.isDropping = false;
    this.voices = ""; // whose sounds are here
    /** @type {Record<string, AudioBuffer>} */
    this.sounds = {};
    /** @type {Set<AudioBufferSourceNode>} */
    this.started = new Set();
    this.beat = 0; // beats since the round began, of the click handed over last
    this.at_s = 0; // and when it sounds
    this.timer = 0;
    this.pattern = pattern();
  }

  /** Begin with the first click of a round; the sounds are there. */
  start() {
    this.at_s = this.context.currentTime + LEAD_S;
    this.beat = 0;
    const [first] = this.#round().clicks;
    this.at_s += (first?.[0] ?? 0) * this.pattern.beat_s;
    this.beat = first?.[0] ?? 0;
    this.#sound(first);
    this.timer = setInterval(() => this.#fill(), WAKE_MS);
  }

  /** Take over what the page says now. */
  take() {
    this.pattern = pattern();
    this.voiced();
  }

  /** Bring the sounds of the voices that are chosen, and the words of this drill. */
  async voiced() {
    const how = delivery();
    const clicks = how.counted ? [...this.pattern.plain.clicks, ...this.pattern.dropping.clicks] : [];
    const words = [...new Set(clicks.map(([, , word]) => word))].join();
    const voices = `${how.voice} ${how.accent_voice} ${words}`;
    if (voices === this.voices) return;
    this.sounds = await fetchSounds(this.context, how, clicks);
    this.voices = voices;
  }

  /** Silence at once. */
  stop() {
    clearInterval(this.timer);
    for (const source of this.started) source.stop();
    this.context.close();
  }

  #round() {
    return this.isDropping ? this.pattern.dropping : this.pattern.plain;
  }

  #fill() {
    const until = this.context.currentTime + (document.hidden ? HIDDEN_AHEAD_S : AHEAD_S) + (delivery().counted ? delivery().word_lead_s : 0);
    for (;;) {
      const { beats, clicks } = this.#round();
      if (!clicks.length) return;
      const place = this.beat % beats;
      const index = clicks.findIndex(([beat]) => beat > place + 1e-6);
      const click = index < 0 ? clicks[0] : clicks[index];
      const [next] = click;
      const apart = index < 0 ? next + beats - place : next - place;
      const at_s = this.at_s + apart * this.pattern.beat_s;
      if (at_s > until) return;
      this.at_s = Math.max(at_s, this.context.currentTime);
      this.beat = next;
      this.#sound(click);
    }
  }

  /** @param {import("./sound.js").Click | undefined} click */
  #sound(click) {
    const [, kind, word] = click ?? [];
    if (!kind || !this.sounds[kind]) return;
    const { gains, side, counted, word_lead_s, seen, felt } = delivery();
    const way = (/** @type {string} */ name) => {
      const gain = new GainNode(this.context, { gain: gains[name] });
      gain.connect(sided(this.context, side));
      return gain;
    };
    for (const source of soundClick(this.sounds, kind, counted ? word : undefined, this.at_s, way, word_lead_s)) {
      source.onended = () => this.started.delete(source);
      this.started.add(source);
    }
    if (!seen && !felt) return;
    const wait_ms = Math.max(0, 1000 * (this.at_s - this.context.currentTime));
    setTimeout(() => {
      if (felt) navigator.vibrate?.(FELT_MS[kind]);
      const mark = document.querySelector(".just-tempo");
      if (!seen || !(mark instanceof HTMLElement)) return;
      mark.dataset.kind = kind;
      setTimeout(() => delete mark.dataset.kind, SEEN_MS);
    }, wait_ms);
  }
}

/** @returns {Pattern} what the page's drill sounds like */
function pattern() {
  return JSON.parse(document.getElementById("drill")?.dataset.just || "null") ?? sounding?.pattern;
}

/** @type {Just | null} */
let sounding = null;

/** Show whether it sounds: the page may have been drawn again. */
function show() {
  const drill = document.getElementById("drill");
  const button = document.getElementById("just");
  if (!drill || !button) return;
  drill.toggleAttribute("data-sounding", sounding !== null);
  drill.toggleAttribute("data-dropping", sounding?.isDropping ?? false);
  const words = button.querySelector("span");
  if (words) words.textContent = sounding ? "Stop the click" : "Just the click";
  button.classList.toggle("solid", sounding !== null);
  button.classList.toggle("hollow-bar", sounding === null);
  const play = document.querySelector(".acts.two [type=submit]");
  play?.classList.toggle("solid", sounding === null);
  play?.classList.toggle("hollow-bar", sounding !== null);
  const drop = document.getElementById("drop-out");
  if (drop) drop.textContent = sounding?.isDropping ? "Let it sound all the way" : "Let it drop out";
}

async function turn() {
  if (sounding) {
    sounding.stop();
    sounding = null;
    return show();
  }
  const context = newContext();
  const mine = (sounding = new Just(context));
  Object.assign(globalThis, { giustoJust: mine }); // for tests and the curious; nothing here reads it
  show();
  try {
    await context.resume();
    await mine.voiced();
    if (sounding === mine) mine.start(); // it may have been stopped meanwhile
  } catch (error) {
    if (sounding !== mine) return;
    sounding = null;
    mine.stop();
    show();
    throw error;
  }
}

addEventListener("click", (event) => {
  const target = /** @type {Element} */ (event.target);
  if (target.closest("#just")) turn();
  if (target.closest("#drop-out") && sounding) {
    sounding.isDropping = !sounding.isDropping;
    show();
  }
});
addEventListener("htmx:afterSettle", () => {
  sounding?.take();
  show();
});
addEventListener("pagehide", () => sounding?.stop());

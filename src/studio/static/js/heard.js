// How you are heard: the level, the round trip, the tapping calibration, and which pad stands for what.

import { address } from "./addresses.js";
import { ClockPairs } from "./clocks.js";
import { Hearing } from "./hearing.js";
import { soundForm } from "./microphone.js";
import { csrfToken } from "./outbox.js";
import { element } from "./page.js";
import { Clicker, fetchSounds, newContext } from "./sound.js";
import { Strip } from "./strip.js";
import { Strokes } from "./strokes.js";

const AFTER_S = 1.0; // of sound after the last click
const LEARNED_S = 10; // of sound, the newest, that an instrument is learned from
const LEAD_S = 0.6;
const NOTE_KEYS = ["Space", "KeyJ", "KeyF"];

/** @typedef {{ear: import("./ear.js").EarPlan, delivery: {voice: string, gains: Record<string, number>}, sent_s: number[], tapped_s: number[]}} Plan */

const recorder = document.querySelector("script[data-recorder]")?.getAttribute("data-recorder") ?? "";
const context = newContext();
const PLAYED_ON = 3; // a note struck so often here is of the instrument, and no pad
/** @type {Map<string, number>} */
const played = new Map(); // how often each note was struck
/** @type {Hearing | null} */
let hearing = null;
/** @type {Strip | null} */
let strip = null;
/** @type {Strokes | null} */
let strokes = null;
/** @type {((pad: string) => void) | null} what waits for a pad */
let learning = null;
/** @type {((at_ms: number) => void) | null} what waits for taps */
let tapped = null;

/** @returns {Plan} */
const plan = () => JSON.parse(element("heard").dataset.plan ?? "{}");

/** Hear by what is chosen; what was heard by before is closed. */
async function open() {
  strokes?.stop();
  strip?.stop();
  hearing?.close();
  const { ear } = plan();
  context.resume().catch(() => {});
  hearing = await Hearing.open(context, ear, recorder);
  Object.assign(globalThis, { giustoHears: hearing }); // for tests and the curious; nothing here reads it
  say("level", hearing.problem || (hearing.microphone ? "Play a few strokes, soft and loud." : ""));
  const canvas = document.getElementById("strip");
  if (hearing.microphone && canvas instanceof HTMLCanvasElement) {
    strip = new Strip(canvas, hearing.microphone);
    hearing.microphone.lost = () => say("level", "The microphone is gone.");
  }
  strokes = new Strokes(hearing, (audio_s) => 1000 * audio_s, {
    counted: () => say("counted", "Four even strokes: they would have counted a take in."),
    level: (found) => {
      say("level", found.words);
      element("level").dataset.code = found.code;
    },
  });
  if (hearing.midi) {
    hearing.midi.onNote = (at_ms, strength, pad) => {
      if (tapped) tapped(at_ms);
      else if (learning) learning(pad);
      else {
        played.set(pad, (played.get(pad) ?? 0) + 1);
        say("level", `Heard: ${pad.replace("note:", "note ")}, ${Math.round(100 * strength)} % strong.`);
      }
      strokes?.stroke(at_ms);
    };
    hearing.midi.onPedal = (pad) => (learning ? learning(pad) : say("level", "Heard: a pedal."));
    hearing.midi.lost = () => say("level", "The MIDI instrument was unplugged.");
  }
  listDevices();
}

/** Offer what this browser has. */
async function listDevices() {
  const devices = (await navigator.mediaDevices?.enumerateDevices().catch(() => [])) ?? [];
  offer("id_ear_microphone", devices.filter((one) => one.kind === "audioinput" && one.label).map((one) => one.label));
  offer("id_ear_port", hearing?.midi ? [.../** @type {any} */ (hearing.midi.access).inputs.values()].map((one) => one.name) : []);
}

/** @param {string} id @param {string[]} names */
function offer(id, names) {
  const field = document.getElementById(id);
  if (!(field instanceof HTMLSelectElement)) return;
  const there = [...field.options].map((option) => option.value);
  for (const name of names) if (!there.includes(name)) field.add(new Option(name, name));
}

/** @param {string} id @param {string} text */
function say(id, text) {
  const line = document.getElementById(id);
  if (line) line.textContent = text;
}

/** Send a form and say what came of it. @param {string} where @param {FormData} body */
async function measure(where, body) {
  body.set("csrfmiddlewaretoken", csrfToken());
  body.set("by", hearing?.told.by ?? "keys");
  body.set("device", hearing?.told.device ?? "");
  const response = await fetch(where, { method: "POST", body, headers: { Accept: "application/json" } }).catch(() => null);
  const answer = await response?.json().catch(() => null);
  if (response?.ok && answer) {
    const digits = answer.half_ms < 0.1 ? 2 : 1;
    const range = `${answer.delay_ms.toFixed(digits)} ± ${answer.half_ms.toFixed(digits)}`;
    say("measured", `${range} ms, from ${answer.count} of the clicks. It is kept. ${answer.words}`);
  } else {
    say("measured", answer?.error ?? "Giusto does not answer.");
  }
}

/** Learn the instrument from what was heard just now. */
async function learnInstrument() {
  const microphone = hearing?.microphone;
  const field = document.getElementById("instrument");
  if (!microphone || !(field instanceof HTMLInputElement)) return;
  const body = soundForm(microphone.recent(LEARNED_S), context.sampleRate);
  body.set("csrfmiddlewaretoken", csrfToken());
  body.set("name", field.value);
  const response = await fetch(address("learn"), { method: "POST", body, headers: { Accept: "application/json" } }).catch(() => null);
  const answer = await response?.json().catch(() => null);
  if (response?.ok) location.reload();
  else say("learned", answer?.error ?? "Giusto does not answer.");
}

/** Play clicks, unevenly, and hear them come back. */
async function roundTrip() {
  const { delivery, sent_s } = plan();
  const microphone = hearing?.microphone;
  if (!microphone) return;
  const clicker = await clicks(sent_s);
  microphone.standIn?.hear(clicker.out, delivery.gains.click);
  await wait(LEAD_S + sent_s[sent_s.length - 1] + AFTER_S);
  await microphone.flush();
  clicker.stop();
  const rate = context.sampleRate;
  const body = soundForm(microphone.recent(LEAD_S + sent_s[sent_s.length - 1] + AFTER_S), rate);
  body.set("sent", JSON.stringify(sent_s.map((time_s) => clicker.zeroFrame + Math.round(time_s * rate))));
  await measure(address("trip"), body);
}

/** Play a steady click, and take the taps that come with it. */
async function tapAlong() {
  const { tapped_s } = plan();
  const clocks = new ClockPairs(context);
  await clocks.run(new AbortController().signal);
  clocks.start();
  /** @type {number[]} */
  const taps = [];
  tapped = (at_ms) => taps.push(at_ms);
  const until = new AbortController();
  const { signal } = until;
  addEventListener("keydown", (event) => {
    if (!NOTE_KEYS.includes(event.code)) return;
    event.preventDefault();
    if (!event.repeat) taps.push(event.timeStamp);
  }, { signal });
  element("tap-here").addEventListener("pointerdown", (event) => taps.push(event.timeStamp), { signal });
  const clicker = await clicks(tapped_s);
  const zero_s = clicker.zeroFrame / context.sampleRate;
  await wait(LEAD_S + tapped_s[tapped_s.length - 1] + AFTER_S / 2);
  until.abort();
  tapped = null;
  clocks.stop();
  clicker.stop();
  const body = new FormData();
  body.set("taps", JSON.stringify(taps));
  body.set("pairs", JSON.stringify(clocks.take()));
  body.set("clicks", JSON.stringify(tapped_s.map((time_s) => zero_s + time_s)));
  await measure(address("taps"), body);
}

/** @param {number[]} times_s */
async function clicks(times_s) {
  const { delivery } = plan();
  await context.resume();
  const sounds = await fetchSounds(context, delivery);
  const clicker = new Clicker(context, times_s.map((time_s) => [time_s, "click"]), sounds, delivery.gains);
  clicker.start(LEAD_S);
  return clicker;
}

/** Wait by the audio clock: sound that falls behind on a busy machine takes what waits for it along. @param {number} seconds */
async function wait(seconds) {
  const over_s = context.currentTime + seconds;
  while (context.currentTime < over_s && context.state === "running") {
    await new Promise((done) => setTimeout(done, Math.max(20, 1000 * (over_s - context.currentTime))));
  }
}

/** Do something that takes a while, once at a time. @param {HTMLButtonElement} button @param {() => Promise<void>} work @param {string} meanwhile */
async function during(button, work, meanwhile) {
  button.disabled = true;
  say("measured", meanwhile);
  await work().catch((error) => say("measured", `It did not work: ${error.message}.`));
  button.disabled = false;
}

/** Let the next pad, note, pedal or key stand for something. @param {HTMLElement} button */
function learn(button) {
  const name = button.dataset.learn ?? "";
  button.textContent = "strike it …";
  learning = (pad) => {
    learning = null;
    if ((played.get(pad) ?? 0) >= PLAYED_ON) {
      button.textContent = "that is what you play: strike another";
      return;
    }
    const field = /** @type {HTMLInputElement} */ (element("id_ear_pads"));
    const pads = JSON.parse(field.value || "{}");
    for (const other of Object.keys(pads)) if (pads[other] === pad) delete pads[other];
    field.value = JSON.stringify({ ...pads, [name]: pad });
    field.dispatchEvent(new Event("change", { bubbles: true }));
  };
}

addEventListener("click", (event) => {
  const button = /** @type {Element} */ (event.target).closest("button");
  if (!button) return;
  if (button.id === "round-trip") during(button, roundTrip, "Listening for twelve seconds. Let the click sound, and play nothing.");
  else if (button.id === "tap-along") during(button, tapAlong, "Tap with each click.");
  else if (button.id === "strike") hearing?.microphone?.standIn?.strike();
  else if (button.id === "open") open();
  else if (button.id === "learn") during(button, learnInstrument, "");
  else if (button.dataset.learn) learn(button);
});
addEventListener("keydown", (event) => {
  if (!learning || ["Tab", "Shift", "Escape"].includes(event.key)) return;
  event.preventDefault();
  event.stopPropagation();
  learning(`key:${event.code}`);
}, { capture: true });
addEventListener("htmx:afterSettle", open);
open();

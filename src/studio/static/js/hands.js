// Reading and Today with the hands on the instrument: four strokes begin what is next, pads do what they stand for.

import { ClockPairs } from "./clocks.js";
import { Hearing } from "./hearing.js";
import { newContext } from "./sound.js";
import { handOver, Strokes } from "./strokes.js";

/** What a pad stands for, and the key that does the same. @type {Record<string, string>} */
const KEYS = { again: "r", easier: "e", harder: "h", stop: "escape" };

/** @type {{ear: import("./ear.js").EarPlan}} */
const { ear } = JSON.parse(document.getElementById("hands")?.textContent ?? "{}");
const recorder = document.querySelector("script[data-recorder]")?.getAttribute("data-recorder") ?? "";

/** Do what is next on this page. */
function next() {
  const standing = /** @type {HTMLElement | null} */ (document.querySelector("[data-any-key]"));
  if (standing?.dataset.next) location.assign(standing.dataset.next);
  else press("enter");
}

/** Press what has a key of its own. @param {string} key */
function press(key) {
  const found = [...document.querySelectorAll("[data-key], [data-pad]")].find((element) =>
    (element.getAttribute("data-pad") ?? element.getAttribute("data-key") ?? "").toLowerCase().split(" ").includes(key),
  );
  if (found instanceof HTMLElement) found.click();
}

async function listen() {
  const bySound = ear.by === "microphone" || ear.by === "stand-in";
  if (bySound && !ear.counts_in) return; // then nothing in the sound is waited for
  const context = bySound ? newContext() : null;
  context?.resume().catch(() => {});
  const clocks = context && new ClockPairs(context);
  const hearing = await Hearing.open(context, ear, recorder);
  hearing.onPad = (name) => press(KEYS[name]);
  Object.assign(globalThis, { giustoHears: hearing }); // for tests and the curious; nothing here reads it
  clocks?.sample();
  clocks?.start();
  const strokes = new Strokes(hearing, (audio_s) => clocks?.page_ms(audio_s) ?? NaN, {
    counted: (found) => {
      strokes.stop();
      handOver(found);
      next();
    },
  });
  const { midi } = hearing;
  if (midi) {
    midi.onNote = (at_ms, _strength, name) => hearing.pad(name) || strokes.stroke(at_ms);
    midi.onPedal = (name) => hearing.pad(name) || strokes.stroke(performance.now());
  }
  addEventListener("keydown", (event) => {
    if (!event.repeat && hearing.pad(`key:${event.code}`)) event.preventDefault();
  });
}

listen();

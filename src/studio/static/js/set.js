// Click: which words were refused, arrow keys on a word, tempo from taps, steps, what is folded.

import "./tap.js";
import { delivery } from "./just.js";
import { Clicker, fetchSounds, newContext } from "./sound.js";

/** Mark the words that the server refused. */
function markWords() {
  const bad = (document.getElementById("drill")?.dataset.bad ?? "").split(" ");
  for (const word of document.querySelectorAll("#words .word")) {
    const refused = bad.includes(word.getAttribute("name") ?? "");
    if (refused) word.setAttribute("aria-invalid", "true");
    else word.removeAttribute("aria-invalid");
  }
}

addEventListener("htmx:afterSwap", markWords);
addEventListener("pageshow", markWords);

// A word that is still being typed when the sentence is drawn again keeps what was typed meanwhile.
/** @type {{id: string, value: string} | null} */
let typed = null;
let swapping = false; // a word that is taken out while it is typed in says that it changed; it did not
addEventListener("htmx:beforeSwap", (event) => (swapping = /** @type {CustomEvent} */ (event).detail.shouldSwap));
addEventListener("input", (event) => {
  const word = event.target;
  typed = word instanceof HTMLInputElement && word.closest("#words") ? { id: word.id, value: word.value } : null;
  // What is under way was asked without this word: it is let go, and what is asked next says all words.
  const elt = typed && document.getElementById("words");
  elt?.dispatchEvent(new CustomEvent("htmx:abort", { bubbles: true, detail: { elt } }));
});
addEventListener("htmx:afterSwap", () => {
  swapping = false;
  const word = typed && document.getElementById(typed.id);
  if (!typed || !(word instanceof HTMLInputElement) || word !== document.activeElement || word.value === typed.value) return;
  word.value = typed.value;
  word.dispatchEvent(new Event("input", { bubbles: true }));
});
addEventListener("change", () => {
  if (!swapping) typed = null;
});

// Ten quick steps are ten steps: those that come while the sentence is being drawn wait for their turn.
/** @type {string[]} */
const steps = [];
let drawing = false;
addEventListener("click", (event) => {
  const step = stepOf(event);
  if (!step || !drawing) return;
  event.preventDefault();
  event.stopPropagation();
  steps.push(step.id);
}, { capture: true });
// A step that is drawn anew while the mouse is down on it gets no click of its own.
/** @type {HTMLElement | null} */
let pressed = null;
addEventListener("pointerdown", (event) => (pressed = event.pointerType === "mouse" ? stepOf(event) : null));
addEventListener("pointerup", (event) => {
  const step = stepOf(event);
  if (step && pressed && !pressed.isConnected && step.id === pressed.id) step.click();
  pressed = null;
});

/**
 * @param {Event} event
 * @returns {HTMLElement | null}
 */
function stepOf(event) {
  return /** @type {Element} */ (event.target).closest("[hx-get][id]");
}

addEventListener("htmx:beforeRequest", (event) => {
  if (event.target instanceof Element && event.target.matches("[hx-get][id]")) drawing = true;
});
// Only then are the new links htmx's own: at the swap they would still lead to a page of their own.
for (const over of ["htmx:afterSettle", "htmx:responseError", "htmx:sendError", "htmx:swapError", "htmx:timeout"]) {
  addEventListener(over, () => {
    drawing = false;
    const next = steps.shift();
    if (next) document.getElementById(next)?.click();
  });
}

// Left and right go through a word's options, on every system.
addEventListener("keydown", (event) => {
  const word = /** @type {HTMLElement} */ (event.target);
  const step = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
  if (!step || !(word instanceof HTMLSelectElement)) return;
  event.preventDefault();
  const index = word.selectedIndex + step;
  if (index < 0 || index >= word.options.length) return;
  word.selectedIndex = index;
  word.dispatchEvent(new Event("change", { bubbles: true }));
});

// Enter in a word of the sentence plays nothing by accident: it takes the word and leaves it.
addEventListener("keydown", (event) => {
  const word = /** @type {HTMLElement} */ (event.target);
  if (event.key !== "Enter" || !word.closest?.("#words")) return;
  event.preventDefault();
  word.blur();
});

addEventListener("click", (event) => {
  if (/** @type {Element} */ (event.target).closest("#hear")) hear();
});

// What was tapped stays said when the drill is drawn again.
let said = "";
addEventListener("htmx:beforeSwap", () => (said = document.getElementById("tapped")?.textContent ?? ""));
addEventListener("htmx:afterSwap", () => document.getElementById("tapped")?.replaceChildren(said));

/** Play an accent and three clicks, as they would sound now. */
async function hear() {
  const how = delivery();
  const context = newContext();
  try {
    await context.resume();
    /** @type {import("./sound.js").Click[]} */
    const clicks = [[0, "accent", "one"], [0.6, "click", "two"], [1.2, "click", "three"], [1.8, "click", "four"]];
    if (!how.counted) for (const click of clicks) click.length = 2;
    const sounds = await fetchSounds(context, how, clicks);
    const clicker = new Clicker(context, clicks, sounds, how.gains, how);
    clicker.start(0.2);
    await new Promise((done) => setTimeout(done, 2600));
    clicker.stop();
  } finally {
    await context.close();
  }
}

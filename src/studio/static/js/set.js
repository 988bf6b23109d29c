// Set the click: which words were refused, arrow keys on a word, tempo from taps, how the click sounds.

import { Clicker, fetchSounds, newContext } from "./sound.js";

const TAKEN_MS = 1200; // after the last tap the tempo is taken
const FORGET_MS = 6500; // a pause longer than the slowest beat begins a new count

/** Mark the words that the server refused. */
function markWords() {
  const result = document.getElementById("result");
  const bad = (result?.dataset.bad ?? "").split(" ");
  for (const word of document.querySelectorAll("#words .word")) {
    const refused = bad.includes(word.getAttribute("name") ?? "");
    if (refused) word.setAttribute("aria-invalid", "true");
    else word.removeAttribute("aria-invalid");
  }
}

addEventListener("htmx:afterSwap", markWords);
addEventListener("pageshow", markWords);

// Left and right go through a word's options, on every system.
addEventListener("keydown", (event) => {
  const word = /** @type {HTMLElement} */ (event.target);
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
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

/** @type {number[]} */
let taps = [];
let taken = 0;

/** Take one tap, and once there are some, the tempo that the server finds in them. @param {Event} event */
async function tap(event) {
  if (taps.length && event.timeStamp - taps[taps.length - 1] > FORGET_MS) taps = [];
  taps.push(event.timeStamp);
  const button = /** @type {HTMLElement} */ (document.getElementById("tap-tempo"));
  const seconds = taps.map((ms) => ((ms - taps[0]) / 1000).toFixed(4)).join(",");
  const mine = taps.length;
  const response = await fetch(`${button.dataset.url}?s=${seconds}`).catch(() => null);
  if (!response?.ok || mine !== taps.length) return; // another tap came meanwhile
  const { bpm, text } = await response.json();
  document.getElementById("tapped")?.replaceChildren(text);
  const word = /** @type {HTMLInputElement | null} */ (document.querySelector("#words [name=bpm]"));
  if (!bpm || !word) return;
  word.value = String(bpm);
  clearTimeout(taken); // the page is drawn again after the last tap, so that nothing moves under the finger
  taken = setTimeout(() => word.dispatchEvent(new Event("change", { bubbles: true })), TAKEN_MS);
}

addEventListener("pointerdown", (event) => {
  if (/** @type {Element} */ (event.target).closest("#tap-tempo")) tap(event);
});
addEventListener("click", (event) => {
  const target = /** @type {Element} */ (event.target);
  if (target.closest("#tap-tempo") && event.detail === 0) tap(event); // by key
  const hear = /** @type {HTMLElement | null} */ (target.closest("#hear"));
  if (hear) sound(hear);
});

// What was tapped stays said when the sheet is drawn again.
addEventListener("htmx:beforeSwap", () => {
  const text = document.getElementById("tapped")?.textContent;
  if (text) addEventListener("htmx:afterSwap", () => document.getElementById("tapped")?.replaceChildren(text), { once: true });
});

/** Play an accent and three clicks. @param {HTMLElement} button */
async function sound(button) {
  const context = newContext();
  await context.resume();
  const sounds = await fetchSounds(context, button.dataset.voice ?? "");
  const clicks = ["accent", "click", "click", "click"].map((kind, beat) => [beat * 0.5, kind]);
  const clicker = new Clicker(context, clicks, sounds, JSON.parse(button.dataset.gains ?? "{}"));
  clicker.start(0.1);
  setTimeout(() => {
    clicker.stop();
    context.close();
  }, 2200);
}

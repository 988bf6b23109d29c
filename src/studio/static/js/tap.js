// Tempo from taps: the server finds it, the word named bpm takes it.

const TAKEN_MS = 1200; // after the last tap the tempo is taken
const FORGET_MS = 6500; // a pause longer than the slowest beat begins a new count

/** @type {number[]} */
let taps = [];
/** @type {ReturnType<typeof setTimeout> | undefined} */
let taken;

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
});

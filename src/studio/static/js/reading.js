// The reading: N goes to the next silence, Up and Down between them once one has the focus.

const silences = [...document.querySelectorAll("[data-silence]")];

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || !silences.length) return;
  const target = /** @type {Element} */ (event.target);
  if (target.closest("input, textarea, select")) return;
  const at = silences.indexOf(/** @type {Element} */ (document.activeElement));
  const next = event.key === "n" || (at >= 0 && event.key === "ArrowDown") ? at + 1 : at >= 0 && event.key === "ArrowUp" ? at - 1 : null;
  if (next === null) return; // the arrows scroll, as everywhere
  const link = silences[Math.min(Math.max(next, 0), silences.length - 1)];
  if (link instanceof HTMLElement) {
    event.preventDefault();
    link.closest("details")?.setAttribute("open", "");
    link.focus();
  }
});

// Paper shows all figures.
addEventListener("beforeprint", () => {
  for (const closed of document.querySelectorAll("details.all-figures")) closed.setAttribute("open", "");
});

// A silence that is touched is heard, where the sound was kept.
const sound = document.getElementById("sound");
const ender = document.getElementById("sound-stop");
if (sound instanceof HTMLAudioElement && ender) {
  addEventListener("click", (event) => {
    const link = /** @type {Element} */ (event.target).closest("a[data-play]");
    if (!(link instanceof HTMLAnchorElement)) return;
    event.preventDefault();
    const beside = /** @type {HTMLInputElement} */ (document.getElementById("sound-click")).checked;
    const where = new URL(link.href);
    if (beside) where.searchParams.set("click", "beside");
    sound.src = where.href;
    slow();
    sound.play();
  });
  const slower = /** @type {HTMLInputElement} */ (document.getElementById("sound-slow"));
  const slow = () => Object.assign(sound, { preservesPitch: true, playbackRate: slower.checked ? 0.5 : 1 });
  slower.addEventListener("change", slow);
  ender.addEventListener("click", () => sound.pause());
  sound.addEventListener("play", () => (ender.hidden = false));
  for (const over of ["pause", "ended", "error"]) sound.addEventListener(over, () => (ender.hidden = true));
}

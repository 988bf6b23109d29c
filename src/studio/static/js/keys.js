// On every page: one-key actions, whether keys are named at all, and "?", which lists them.

const HANDS = "giusto-hands"; // in the session: "keys" or "touch", by what was used last
const STROKE_MS = 800; // a last stroke on Space that falls on the page after the take does nothing
const NAMES = /** @type {Record<string, string>} */ ({ enter: "Enter", escape: "Esc", space: "Space", arrowup: "↑", arrowdown: "↓" });

/** @param {"keys" | "touch"} by */
function used(by) {
  document.documentElement.dataset.hands = by;
  try {
    sessionStorage.setItem(HANDS, by);
  } catch {
    // a browser that keeps nothing goes by its pointer on each page
  }
}

try {
  const kept = sessionStorage.getItem(HANDS);
  if (kept === "keys" || kept === "touch") document.documentElement.dataset.hands = kept;
} catch {
  // as above
}

addEventListener("pointerdown", (event) => {
  if (event.pointerType === "touch") used("touch");
}, { passive: true });

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
  const target = /** @type {Element} */ (event.target);
  if (target.closest("input, textarea, select") && event.key !== "Escape") return;
  if (target.closest("button, a, summary") && ["Enter", " "].includes(event.key)) return;
  const key = event.key === " " ? "space" : event.key.toLowerCase();
  if (key === "space" && performance.now() < STROKE_MS) return event.preventDefault();
  used("keys");
  if (key === "?") return list();
  const wanted = [...document.querySelectorAll("[data-key]")].find((element) =>
    (element.getAttribute("data-key") ?? "").toLowerCase().split(" ").includes(key),
  );
  if (wanted instanceof HTMLElement) {
    event.preventDefault();
    wanted.click();
  }
});

/** Show what each key of this page does. */
function list() {
  document.getElementById("keys")?.remove();
  const box = document.createElement("dialog");
  box.id = "keys";
  const heading = document.createElement("h2");
  heading.textContent = "Keys of this page";
  const keys = document.createElement("dl");
  for (const element of document.querySelectorAll("[data-key]")) {
    const key = (element.getAttribute("data-key") ?? "").split(" ")[0].toLowerCase();
    const [term, says] = [document.createElement("dt"), document.createElement("dd")];
    term.textContent = NAMES[key] ?? key.toUpperCase();
    says.textContent = wordsOf(element);
    keys.append(term, says);
  }
  const [term, says] = [document.createElement("dt"), document.createElement("dd")];
  term.textContent = "Esc";
  says.textContent = "closes this list";
  keys.append(term, says);
  box.append(heading, keys);
  document.body.append(box);
  box.addEventListener("click", () => box.close());
  box.addEventListener("close", () => box.remove());
  box.showModal();
}

/** What a control says, its key left out. @param {Element} element */
function wordsOf(element) {
  const copy = /** @type {Element} */ (element.cloneNode(true));
  for (const key of copy.querySelectorAll(".key")) key.remove();
  for (const small of copy.querySelectorAll("small")) small.prepend(", ");
  return (element.getAttribute("aria-label") ?? copy.textContent ?? "").replace(/\s+/g, " ").replace(/ ,/g, ",").trim();
}

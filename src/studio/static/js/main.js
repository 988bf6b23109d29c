// On every page: its keys, and the sending of takes that are still kept in this browser.

import { sendKept } from "./outbox.js";

import "./drop.js";
import "./keys.js";

const RETRY_MS = 3000;

// What is folded open stays open when a part of the page is drawn again.
/** @type {string[]} */
let unfolded = [];
addEventListener("htmx:beforeSwap", () => {
  unfolded = [...document.querySelectorAll("details[open][id]")].map((one) => one.id);
});
addEventListener("htmx:afterSwap", () => {
  for (const id of unfolded) document.getElementById(id)?.setAttribute("open", "");
});

// What More leads to is folded on the page: it is opened, and shown.
addEventListener("click", (event) => {
  const link = /** @type {Element} */ (event.target).closest("a[data-open]");
  const fold = link && document.getElementById((link.getAttribute("href") ?? "").slice(1));
  if (!link || !(fold instanceof HTMLDetailsElement)) return;
  event.preventDefault();
  /** @type {HTMLElement | null} */ (link.closest("[popover]"))?.hidePopover();
  fold.open = true;
  fold.scrollIntoView();
  /** @type {HTMLElement | null} */ (fold.querySelector("textarea, a, summary"))?.focus({ preventScroll: true });
});

// What is another's is looked at: what would change or play something is not there, for keys either.
if (document.body.hasAttribute("data-looking")) {
  for (const one of document.querySelectorAll("form[method=post]:not(.say-form), a[href*='/see/play/']")) one.remove();
}

// The standing view: Space starts the next take, any other key or a touch opens the page.
const standing = document.querySelector("[data-any-key]");
if (standing instanceof HTMLElement) {
  addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || ["Shift", "Tab", "Control", "Alt", "Meta"].includes(event.key)) return;
    if (event.key === "Enter" && /** @type {Element} */ (event.target).closest("a")) return;
    event.preventDefault();
    location.assign((event.key === " " ? standing.dataset.next : standing.dataset.anyKey) ?? "/");
  });
  standing.addEventListener("click", (event) => {
    if (!(/** @type {Element} */ (event.target).closest("a"))) location.assign(standing.dataset.anyKey ?? "/");
  });
}

/** @type {ReturnType<typeof setTimeout> | undefined} */
let retry;
let busy = false;

/** Send what is kept; one at a time, and one retry at a time, however often it is asked for. */
async function send() {
  if (busy) return;
  busy = true;
  clearTimeout(retry);
  try {
    const { waiting, refused } = await sendKept();
    tell(waiting, refused);
    if (waiting) retry = setTimeout(send, RETRY_MS);
  } catch (error) {
    console.warn("kept takes can't be looked at", error); // no database here: then nothing is kept in it either
  } finally {
    busy = false;
  }
}

/** @param {number} waiting @param {import("./ledger.js").Ledger[]} refused */
function tell(waiting, refused) {
  const line = document.getElementById("outbox");
  if (!line) return;
  line.replaceChildren();
  if (waiting) {
    const takes = waiting === 1 ? "A take is" : `${waiting} takes are`;
    line.append(`${takes} kept in this browser and sent as soon as Giusto answers. `);
  }
  for (const ledger of refused) {
    line.append(`A take is kept in this browser; Giusto refused it: ${ledger.take.refused}. `);
    line.append(button("Save it as a file", () => save(ledger)), " ", button("Forget it", () => ledger.drop().then(send)), " ");
  }
  line.hidden = !line.childNodes.length;
}

/** @param {string} text @param {() => void} then */
function button(text, then) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "linklike";
  made.textContent = text;
  made.addEventListener("click", then);
  return made;
}

/** @param {import("./ledger.js").Ledger} ledger */
async function save(ledger) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([JSON.stringify(await ledger.plain(), null, 1)], { type: "application/json" }));
  link.download = `giusto-take-${ledger.take.id}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}

addEventListener("online", send);
send();

// On every page: one-key actions, and the sending of takes that are still kept in this browser.

import { sendKept } from "./outbox.js";

const RETRY_MS = 3000;

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
  const target = /** @type {Element} */ (event.target);
  if (target.closest("input, textarea, select") && event.key !== "Escape") return;
  if (target.closest("button, a, summary") && ["Enter", " "].includes(event.key)) return;
  const key = event.shiftKey && event.key.length > 1 ? `Shift+${event.key}` : event.key;
  const wanted = [...document.querySelectorAll("[data-key]")].find(
    (element) => element.getAttribute("data-key")?.toLowerCase() === key.toLowerCase(),
  );
  if (wanted instanceof HTMLElement) {
    event.preventDefault();
    wanted.click();
  }
});

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

async function send() {
  const { waiting, refused } = await sendKept();
  const line = document.getElementById("outbox");
  if (line) {
    const parts = [];
    if (waiting) parts.push(`${waiting === 1 ? "A take is" : `${waiting} takes are`} kept in this browser and sent as soon as Giusto answers.`);
    for (const reason of refused) parts.push(`A take is kept in this browser; the server refused it: ${reason}.`);
    line.textContent = parts.join(" ");
    line.hidden = !parts.length;
  }
  if (waiting) setTimeout(send, RETRY_MS);
}

addEventListener("online", send);
send();

// On every page: one-key actions, and the sending of takes that are still kept in this browser.

import { sendKept } from "./outbox.js";

const RETRY_MS = 3000;

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
  const target = /** @type {Element} */ (event.target);
  if (target.closest("input, textarea, select") && event.key !== "Escape") return;
  if (target.closest("button, a, summary") && ["Enter", " "].includes(event.key)) return;
  const key = event.key.toLowerCase();
  const wanted = [...document.querySelectorAll("[data-key]")].find((element) =>
    (element.getAttribute("data-key") ?? "").toLowerCase().split(" ").includes(key),
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
function save(ledger) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([JSON.stringify(ledger.plain(), null, 1)], { type: "application/json" }));
  link.download = `giusto-take-${ledger.take.id}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}

addEventListener("online", send);
send();

// The play page as a machine: what each event does in each state, and what the page says of it.

import { NoAnswerError } from "./outbox.js";
import { element, say } from "./page.js";
import { Playing } from "./playing.js";
import { fetchSounds, newContext } from "./sound.js";

/**
 * @typedef {"idle" | "starting" | "playing" | "ending" | "sending" | "waiting" | "over"} State
 * @typedef {"begin" | "started" | "failed" | "stop" | "discard" | "complete" | "broken" | "kept" | "unanswered" | "arrived"} Event
 */

const RETRY_MS = 1500;
const HOLD_MS = 600;

/** @type {import("./page.js").Playback} */
const plan = JSON.parse(element("plan").textContent ?? "");
const stage = element("stage");
const home = stage.dataset.home ?? "/";
const context = newContext();
const sounds = fetchSounds(context, plan.delivery.voice); // now, while the server is sure to be there
sounds.catch(() => {}); // asked for once more, and told, when the take begins

/** @type {State} */
let state = "idle";
/** @type {Playing | null} */
let playing = null;
let starting = new AbortController();

const ignore = () => {};
const leave = () => go("over", () => location.assign(home));

/** What an event does where nothing else is said: nothing. @type {Record<Event, (detail?: any) => void>} */
const NOTHING = {
  begin: ignore,
  started: ignore,
  failed: ignore,
  stop: ignore,
  discard: ignore,
  complete: ignore,
  broken: ignore,
  kept: ignore,
  unanswered: ignore,
  arrived: ignore,
};

/** Every event in every state. @type {Record<State, Record<Event, (detail?: any) => void>>} */
const MACHINE = {
  idle: { ...NOTHING, begin, stop: leave, discard: leave },
  starting: { ...NOTHING, started: () => go("playing"), failed, stop: cancel, discard: cancel, broken: cancel },
  playing: {
    ...NOTHING,
    stop: () => end("stopped"),
    discard: () => go("over", forget),
    complete: () => end("complete"),
    broken: () => end("broken"),
  },
  ending: { ...NOTHING, kept: () => go("sending", send) },
  sending: { ...NOTHING, unanswered: () => go("waiting", wait), arrived: (reading) => go("over", () => arrived(reading)) },
  // The take is kept, and sent from any page: whoever waits may leave.
  waiting: { ...NOTHING, stop: leave, unanswered: wait, arrived: (reading) => go("over", () => arrived(reading)) },
  over: { ...NOTHING, stop: leave },
};

/** @param {Event} event @param {any} [detail] */
function on(event, detail) {
  MACHINE[state][event](detail);
}

/** @param {State} next @param {() => void} [then] */
function go(next, then = ignore) {
  state = next;
  stage.dataset.machine = next;
  then();
}

function begin() {
  go("starting");
  starting = new AbortController();
  if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
  element("tap-word").textContent = plan.notes_s ? "Listen" : "Tap anywhere";
  element("tap-text").textContent = plan.notes_s ? "The simulated player plays this take." : "or press Space, J or F.";
  playing = new Playing(plan, context, on);
  Object.assign(globalThis, { giusto: playing }); // for tests and the curious; nothing here reads it
  playing.start(sounds, starting.signal).then(
    () => on("started"),
    (error) => {
      playing?.halt();
      on("failed", error);
    },
  );
}

/** @param {Error} error */
function failed(error) {
  go("idle", () => show("No sound", "the browser gave none", `The click could not start: ${error.message}.`));
}

/** Leave while the take is still being got ready: nothing was played, nothing is kept. */
function cancel() {
  starting.abort();
  const left = playing;
  go("over", () => Promise.resolve(left?.discard()).finally(() => location.assign(home)));
}

/** @param {"complete" | "stopped" | "broken"} how */
function end(how) {
  go("ending");
  show("Read", "the take is kept", "Reading it.");
  playing?.end(how).then(() => on("kept"));
}

function forget() {
  Promise.resolve(playing?.discard()).finally(() => location.assign(home));
}

async function send() {
  try {
    on("arrived", await playing?.sendAll());
  } catch (error) {
    if (!(error instanceof NoAnswerError)) throw error;
    on("unanswered");
  }
}

/** Send again in a while, until all has arrived. */
function wait() {
  show("Kept", "in this browser", "Giusto does not answer. The take is sent as soon as it does.");
  setTimeout(() => state === "waiting" && send(), RETRY_MS);
}

/** @param {string} reading its address, "" where the take was refused */
function arrived(reading) {
  if (reading) location.assign(reading);
  else show("Kept", "in this browser", `The take was refused: ${playing?.ledger.take.refused}`);
}

/** @param {string} word @param {string} line @param {string} text */
function show(word, line, text) {
  stage.dataset.state = "after";
  element("word").textContent = word;
  say([line]);
  element("aside").textContent = "";
  element("tap-word").textContent = "";
  element("tap-text").textContent = text;
}

/** Change a setting now, or while playing when a click next sounds. @param {() => void} change */
function change(change) {
  if (state === "playing") playing?.page.later(change);
  else change();
}

/** @param {string} name */
function look(name) {
  document.documentElement.dataset.look = name;
  localStorage.setItem("giusto-look", name);
}

/** @param {"shown" | "hidden"} shown whether each return is told while playing */
function verdicts(shown) {
  stage.dataset.verdicts = shown;
  element("verdicts").textContent = shown === "shown" ? "shown" : "hidden";
}

/** @type {Record<string, () => void>} */
const TOGGLES = {
  KeyV: () => verdicts(stage.dataset.verdicts === "shown" ? "hidden" : "shown"),
  KeyD: () => look(document.documentElement.dataset.look === "stage" ? "paper" : "stage"),
};

look(localStorage.getItem("giusto-look") ?? "paper");
go("idle");

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
  if (event.code in TOGGLES) change(TOGGLES[event.code]);
  else if (state === "idle" && ["Space", "Enter"].includes(event.code)) {
    event.preventDefault();
    on("begin");
  } else if (event.code === "Escape") on("stop");
  else if (event.code === "Backspace" && state === "playing" && confirm("Stop, and forget this take?")) on("discard");
});

element("tap").addEventListener("click", () => on("begin"));

/** A button that acts when it is held, so that no stroke beside it ends a take. @param {string} id @param {Event} event */
function held(id, event) {
  const button = element(id);
  /** @type {ReturnType<typeof setTimeout> | undefined} */
  let holding;
  button.addEventListener("pointerdown", () => (holding = setTimeout(() => on(event), HOLD_MS)));
  for (const gone of ["pointerup", "pointercancel", "pointerleave"]) button.addEventListener(gone, () => clearTimeout(holding));
}

held("stop", "stop");
held("discard", "discard");

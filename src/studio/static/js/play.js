// The play page as a machine: what each event does in each state, and what the page says of it.

import { address } from "./addresses.js";
import { ClockPairs } from "./clocks.js";
import { Hearing } from "./hearing.js";
import { csrfToken, NoAnswerError } from "./outbox.js";
import { element, say } from "./page.js";
import { Playing } from "./playing.js";
import { fetchSounds, newContext } from "./sound.js";
import { Strip } from "./strip.js";
import { handedOver, handOver, Strokes } from "./strokes.js";

/**
 * @typedef {"idle" | "starting" | "playing" | "ending" | "sending" | "waiting" | "over"} State
 * @typedef {"begin" | "started" | "failed" | "stop" | "discard" | "complete" | "broken" | "kept" | "unanswered" | "arrived"} Event
 */

const RETRY_MS = 1500;
const HOLD_MS = 600;
const TOUCH_MS = 1500; // sound that has not come by then waits for a touch

/** @type {import("./page.js").Playback} */
const plan = JSON.parse(element("plan").textContent ?? "");
const stage = element("stage");
const home = stage.dataset.home ?? "/";
const context = newContext();
const clocks = new ClockPairs(context);
const opening = Hearing.open(context, plan.ear, stage.dataset.recorder ?? "");
const sounds = fetchSounds(context, plan.delivery, plan.clicks); // now, while the server is sure to be there
sounds.catch(() => {}); // asked for once more, and told, when the take begins

/** @type {State} */
let state = "idle";
/** @type {Playing | null} */
let playing = null;
let starting = new AbortController();
/** @type {Hearing | null} */
let hearing = null;
/** What happens on the page until the take begins. @type {{stop: () => void}[]} */
const ready = [];

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
  // What fails at the end is told; what was kept before it is sent all the same.
  ending: { ...NOTHING, kept: () => go("sending", send), failed: () => go("sending", send) },
  sending: {
    ...NOTHING,
    unanswered: (why) => go("waiting", () => wait(why)),
    arrived: (reading) => go("over", () => arrived(reading)),
  },
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

/** @param {import("./strokes.js").Counted | null} [counted] strokes that count it in */
function begin(counted = null) {
  go("starting");
  starting = new AbortController();
  if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
  for (const one of ready.splice(0)) one.stop();
  const { signal } = starting;
  start(signal, counted).then(
    () => on("started"),
    (error) => {
      playing?.halt();
      on("failed", error);
    },
  );
}

/** @param {AbortSignal} signal @param {import("./strokes.js").Counted | null} counted */
async function start(signal, counted) {
  hearing = await opening;
  if (signal.aborted) return;
  if (plan.notes_s) tell("Listen", "The simulated player plays this take.");
  else if (hearing.byKeys) tell("Strike here", "with Space, J or F.", "every note, one or two hands.");
  else tell("Play", "Giusto listens.");
  playing = new Playing(plan, context, hearing, clocks, on);
  Object.assign(globalThis, { giusto: playing }); // for tests and the curious; nothing here reads it
  await playing.start(sounds, signal, counted);
}

/** Say what to do in the frame; in other words to hands that touch. @param {string} word @param {string} text @param {string} touch */
function tell(word, text, touch = "") {
  element("tap-word").textContent = word;
  const line = element("tap-text");
  if (!touch) return line.replaceChildren(text);
  const [byKey, byTouch] = [document.createElement("span"), document.createElement("span")];
  byKey.className = "by-key";
  byTouch.className = "by-touch";
  [byKey.textContent, byTouch.textContent] = [text, touch];
  line.replaceChildren(byKey, byTouch);
}

/** While nothing is played yet: what is heard, how well, and strokes that count in. */
async function getReady() {
  hearing = await opening;
  if (hearing.problem) element("level").textContent = hearing.problem; // also to whoever has begun before it was known
  if (state !== "idle") return;
  Object.assign(globalThis, { giustoHears: hearing }); // for tests and the curious; nothing here reads it
  hearing.onPad = (name) => (name === "stop" || state === "playing" ? name === "stop" && on("stop") : on("begin"));
  const { microphone, midi } = hearing;
  const canvas = element("strip");
  if (microphone && canvas instanceof HTMLCanvasElement) ready.push(new Strip(canvas, microphone));
  const strokes = new Strokes(hearing, (audio_s) => clocks.page_ms(audio_s), { counted: countIn, level: tellLevel });
  ready.push(strokes);
  if (midi) {
    midi.onNote = (at_ms, _strength, pad) => hearing?.pad(pad) || strokes.stroke(at_ms);
    midi.onPedal = (pad) => hearing?.pad(pad) || strokes.stroke(performance.now());
  }
  const earlier = handedOver();
  if (earlier) countIn(earlier);
  const silent = setTimeout(() => say(["touch the screen once: before that, a browser gives no sound"]), TOUCH_MS);
  await context.resume();
  clearTimeout(silent);
  await clocks.run(new AbortController().signal);
  if (state === "idle") clocks.start();
}

/** @param {import("./strokes.js").Heard} found */
function tellLevel(found) {
  element("level").textContent = found.words;
  element("level").dataset.code = found.code;
}

/** Strokes have counted the take in: at the drill's tempo, or at their own. @param {import("./strokes.js").Counted} counted */
function countIn(counted) {
  if (plan.ear.counts_by === "drill" || counted.bpm === plan.bpm) {
    on("begin", counted);
    return;
  }
  const words = new URLSearchParams(location.search.includes("again=") ? plan.words : location.search);
  words.set("bpm", String(counted.bpm));
  handOver(counted);
  location.replace(`${location.pathname}?${words}`);
}

/** The take could not begin: it is said, and the page is ready again, strokes and all. @param {Error} error */
function failed(error) {
  go("idle", () => show("No sound", "the browser gave none", `The click could not start: ${error.message}. Begin again.`));
  getReady().catch(() => {});
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
  Promise.resolve(playing?.end(how)).then(() => on("kept"), (error) => on("failed", error));
}

function forget() {
  Promise.resolve(playing?.discard()).finally(() => location.assign(home));
}

async function send() {
  try {
    on("arrived", await playing?.sendAll());
  } catch (error) {
    on("unanswered", error);
  }
}

/** Send again in a while, until all has arrived. @param {unknown} why */
function wait(why) {
  const said = why instanceof NoAnswerError ? "Giusto does not answer." : `It could not be sent: ${why}.`;
  show("Kept", "in this browser", `${said} The take is sent as soon as it can be.`);
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
  tell("", text);
}

/** Change a setting now, or while playing when a click next sounds. @param {() => void} change */
function change(change) {
  if (state === "playing") playing?.page.later(change);
  else change();
}

/** @param {string} name */
function look(name) {
  document.documentElement.dataset.look = name;
  element("look").textContent = name === "stage" ? "Light stage" : "Dark stage";
  localStorage.setItem("giusto-look", name);
}

/** @param {"shown" | "hidden"} shown whether each return is told while playing */
function verdicts(shown) {
  stage.dataset.verdicts = shown;
  element("verdicts").textContent = shown === "shown" ? "shown" : "hidden";
}

/** Be a step louder or softer, from the next click on and from then on. @param {1 | -1} by */
function louder(by) {
  const { levels, level } = plan.delivery;
  const at = levels.findIndex(([name]) => name === level) + by;
  if (!plan.delivery.heard || !levels[at]) return;
  [plan.delivery.level, plan.delivery.gains] = levels[at];
  playing?.setGains(plan.delivery.gains);
  const body = new URLSearchParams({ level: plan.delivery.level });
  fetch(address("loudness"), { method: "POST", body, headers: { "X-CSRFToken": csrfToken() } }).catch(() => {}); // heard all the same
}

/** @type {Record<string, () => void>} */
const LOUDNESS = { Digit9: () => louder(-1), Digit0: () => louder(1) };

/** @type {Record<string, () => void>} */
const TOGGLES = {
  KeyV: () => verdicts(stage.dataset.verdicts === "shown" ? "hidden" : "shown"),
  KeyD: () => look(document.documentElement.dataset.look === "stage" ? "paper" : "stage"),
};

look(localStorage.getItem("giusto-look") ?? "paper");
go("idle");
getReady().catch(() => {}); // no sound yet: the first touch brings it, and says what is wrong

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
  if (event.code in TOGGLES) change(TOGGLES[event.code]);
  else if (event.code in LOUDNESS) LOUDNESS[event.code]();
  else if (state === "idle" && ["Space", "Enter"].includes(event.code)) {
    event.preventDefault();
    on("begin");
  } else if (event.code === "Escape") on("stop");
  else if (event.code === "Backspace" && state === "playing" && confirm("Stop, and forget this take?")) on("discard");
});

addEventListener("keydown", (event) => {
  if (!event.repeat && hearing?.pad(`key:${event.code}`)) event.preventDefault();
});

element("tap").addEventListener("click", () => on("begin"));
element("look").addEventListener("click", () => change(TOGGLES.KeyD));
document.getElementById("strike")?.addEventListener("click", () => {
  context.resume();
  hearing?.microphone?.standIn?.strike();
  hearing?.midi?.standIn?.strike(performance.now());
});

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

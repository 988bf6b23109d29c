// What the play page shows. It changes only when a click sounds: never in a silence.

const SOON_MS = 4; // nearer than this, a click's moment has come
const AFTER_MS = 12; // a change comes just after its click, never before it
const LATE_MS = 80; // a change that comes later than this after its click waits for a safe one
const SEEN_MS = 90; // how long a click that is seen stands on the page: about as long as it sounds
/** @type {Record<string, number>} */
const FELT_MS = { accent: 40, click: 25, count: 25, sub: 12 };

/**
 * What the server gives a page to play from.
 * @typedef {object} Stretch
 * @property {number} from_s
 * @property {string} state
 * @property {string} word
 * @property {string[]} cycles
 * @property {string} aside
 * @property {number} turn
 * @property {[number, number] | null} bar
 *
 * @typedef {object} Playback
 * @property {object} drill
 * @property {string} origin
 * @property {string} player
 * @property {{voice: string, accent_voice: string, counted: boolean, word_lead_s: number, side: string, gains: Record<string, number>, levels: [string, Record<string, number>][], level: string, heard: boolean, seen: boolean, felt: boolean}} delivery
 * @property {import("./sound.js").Click[]} clicks
 * @property {Stretch[]} stretches
 * @property {[number, number][]} silences
 * @property {number} beat_s
 * @property {number[]} cycle_ends of a click that climbs until it and the notes part
 * @property {number} settle_s after a return, for the note that answers it
 * @property {number} end_s
 * @property {string} input
 * @property {import("./ear.js").EarPlan} ear
 * @property {number} bpm
 * @property {number} count_beats
 * @property {string} words the drill as a query
 * @property {object} [simulated]
 * @property {number[]} [notes_s]
 * @property {number[]} [strengths]
 */

/** The play page's moving parts. */
export class Page {
  /**
   * @param {Playback} plan
   * @param {(time_s: number) => number} page_ms page time of a drill time
   */
  constructor(plan, page_ms) {
    this.plan = plan;
    this.page_ms = page_ms;
    this.stage = element("stage");
    this.next = 0; // the click whose moment is awaited
    /** @type {(() => void)[]} changes that wait for a click */
    this.waiting = [];
    this.shown = -1;
    /** @type {ReturnType<typeof setTimeout> | undefined} */
    this.timer = undefined;
  }

  /** Follow the clicks. */
  start() {
    this.#await();
  }

  /** Change something at the next moment that allows it. @param {() => void} change */
  later(change) {
    this.waiting.push(change);
  }

  /** Put the bar beside the sheet at the present stretch. */
  moveBar() {
    const place = this.plan.stretches[this.shown]?.bar;
    if (!place) return;
    element("bar").setAttribute("y", String(place[0]));
    element("bar").setAttribute("height", String(place[1]));
  }

  /** Leave the page as it is. */
  stop() {
    clearTimeout(this.timer);
  }

  #await() {
    const click = this.plan.clicks[this.next];
    if (!click) return;
    const wait_ms = this.page_ms(click[0]) + AFTER_MS - performance.now();
    // Sound that falls behind takes the click with it: look again when the time seems to have come.
    const arrived = () => (wait_ms > SOON_MS ? this.#await() : this.#onClick(click[0]));
    this.timer = setTimeout(arrived, Math.max(0, wait_ms));
  }

  /** @param {number} time_s */
  #onClick(time_s) {
    const kind = this.plan.clicks[this.next][1];
    this.next += 1;
    const following = this.plan.clicks[this.next]?.[0] ?? Infinity;
    const late_ms = performance.now() - this.page_ms(time_s);
    const silent = following - time_s > this.plan.beat_s * 1.001;
    if (late_ms < LATE_MS || !silent) {
      this.#show(time_s);
      for (const change of this.waiting.splice(0)) change();
      this.#deliver(kind);
    }
    this.#await();
  }

  /** Let a click be seen and felt while it sounds. @param {string} kind */
  #deliver(kind) {
    if (this.plan.delivery.felt) navigator.vibrate?.(FELT_MS[kind]);
    if (!this.plan.delivery.seen) return;
    const mark = element("seen");
    mark.dataset.kind = kind;
    setTimeout(() => delete mark.dataset.kind, SEEN_MS);
  }

  /** @param {number} time_s */
  #show(time_s) {
    const index = this.plan.stretches.findLastIndex((stretch) => stretch.from_s <= time_s + 1e-6);
    if (index < 0 || index === this.shown) return;
    this.shown = index;
    const stretch = this.plan.stretches[index];
    this.stage.dataset.state = stretch.state;
    element("word").textContent = stretch.word;
    say(stretch.cycles);
    element("aside").textContent = stretch.aside;
    for (const counts of this.stage.querySelectorAll("[data-turn]")) {
      counts.toggleAttribute("hidden", counts.getAttribute("data-turn") !== String(stretch.turn));
    }
    this.moveBar();
  }
}

/** Write the line under the state word: words, a count, words. @param {string[]} pieces */
export function say([before, count = "", after = ""]) {
  element("before").textContent = before;
  element("count").textContent = count;
  element("after").textContent = after;
}

/** @param {string} id */
export function element(id) {
  const found = document.getElementById(id);
  if (!found) throw new Error(`no element ${id}`);
  return found;
}

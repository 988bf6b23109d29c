// Types alone: by what a player is heard. No module stands above another that it names.

/**
 * By what a player is heard, as the server says it.
 * @typedef {object} EarPlan
 * @property {"keys" | "microphone" | "phone" | "midi" | "stand-in" | "stand-in-midi"} by
 * @property {string} device
 * @property {string} microphone
 * @property {string} port
 * @property {number} channel
 * @property {boolean} keep
 * @property {number | null} threshold_db
 * @property {number | null} refractory_s
 * @property {boolean} counts_in
 * @property {"drill" | "strokes"} counts_by
 * @property {number} strokes how many count a take in
 * @property {Record<string, string>} pads
 * @property {number | null} delay_ms
 * @property {Room | null} room
 */

/**
 * The room of a stand-in.
 * @typedef {object} Room
 * @property {string} sound
 * @property {number} variants
 * @property {number} bleed gain of the click in the room
 * @property {number} noise
 * @property {number} delay_s from the loudspeaker, or the string, to the recorder
 * @property {number} gain
 */

export {};

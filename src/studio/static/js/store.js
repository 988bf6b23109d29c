// What was played and is not yet read by the server, in the browser's own database (IndexedDB).

/**
 * A take as this browser keeps it. Its batches stay here until the server has ended it.
 * @typedef {object} Kept
 * @property {string} id
 * @property {string} [player] whose take it is; none in takes that an earlier version kept
 * @property {{device: Record<string, unknown>} & Record<string, unknown>} begin the message that begins it
 * @property {boolean} begun whether the server has that
 * @property {number} count batches so far
 * @property {{how: string, batches: number} | null} ended
 * @property {boolean} discarded
 * @property {string} refused why the server will never take it, or ""
 *
 * @typedef {{at_ms: number, source: string, strength?: number}} Note
 * @typedef {{frame: number, samples?: string, flac?: string}} SoundPiece samples of 16 bits, or FLAC of them, base64
 * @typedef {{notes: Note[], pairs: number[][], sound: SoundPiece[]}} Body
 * @typedef {{take: string, number: number, open: boolean, body: Body}} Batch
 */

const NAME = "giusto";
const PATIENCE_MS = 4000; // a database that has not opened by then is none

/** @type {Promise<IDBDatabase> | undefined} */
let opening;

/** Open the database; one that was closed under us is opened again, one that does not open is asked for once. @returns {Promise<IDBDatabase>} */
function database() {
  opening ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1);
    setTimeout(() => reject(new Error("the browser's database does not open")), PATIENCE_MS);
    request.onupgradeneeded = () => {
      request.result.createObjectStore("takes", { keyPath: "id" });
      request.result.createObjectStore("batches", { keyPath: ["take", "number"] });
    };
    request.onsuccess = () => {
      request.result.onclose = forget;
      request.result.onversionchange = () => (request.result.close(), forget());
      resolve(request.result);
      opening = Promise.resolve(request.result); // also where it comes after all
    };
    request.onerror = () => (forget(), reject(request.error));
  });
  return opening;
}

function forget() {
  opening = undefined;
}

/**
 * Run one transaction and give what its request found.
 * @template T
 * @param {IDBTransactionMode} mode
 * @param {(takes: IDBObjectStore, batches: IDBObjectStore) => IDBRequest<T> | void} work
 * @returns {Promise<T>}
 */
async function within(mode, work) {
  const db = await database();
  return new Promise((resolve, reject) => {
    /** @type {IDBTransaction} */
    let transaction;
    try {
      transaction = db.transaction(["takes", "batches"], mode, { durability: "strict" });
    } catch (error) {
      forget(); // the connection is dead: the next call opens another
      reject(error);
      return;
    }
    const request = work(transaction.objectStore("takes"), transaction.objectStore("batches"));
    transaction.oncomplete = () => resolve(/** @type {T} */ (request?.result));
    transaction.onerror = transaction.onabort = () => reject(transaction.error);
  });
}

/** @param {Kept} take @returns {Promise<void>} */
export const putTake = (take) => within("readwrite", (takes) => void takes.put(take));

/** @returns {Promise<Kept[]>} */
export const allTakes = () => within("readonly", (takes) => takes.getAll());

/** Keep a batch, and with it how many batches the take has. @param {Kept} take @param {Batch} batch @returns {Promise<void>} */
export const putBatch = (take, batch) =>
  within("readwrite", (takes, batches) => {
    batches.put(batch);
    takes.put(take);
  });

/** @param {string} id @returns {Promise<Batch[]>} */
export const batchesOf = (id) =>
  within("readonly", (_, batches) => batches.getAll(IDBKeyRange.bound([id, 0], [id, Infinity])));

/** @param {string} id @param {number} number @returns {Promise<Batch | undefined>} */
export const batchOf = (id, number) => within("readonly", (_, batches) => batches.get([id, number]));

/** @param {string} id @returns {Promise<void>} */
export const dropTake = (id) =>
  within("readwrite", (takes, batches) => {
    takes.delete(id);
    batches.delete(IDBKeyRange.bound([id, 0], [id, Infinity]));
  });

// What was played and is not yet acknowledged, in the browser's own database (IndexedDB).

/**
 * @typedef {{id: string, begin: object, begun: boolean, count: number,
 *            ended: {how: string, batches: number} | null, discarded: boolean, refused: string}} Kept
 * @typedef {{take: string, number: number, open: boolean,
 *            body: {stamps_ms: number[], sources: string[], pairs: number[][]}}} Batch
 */

const NAME = "giusto";

/** @type {Promise<IDBDatabase> | undefined} */
let opening;

function database() {
  opening ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => {
      request.result.createObjectStore("takes", { keyPath: "id" });
      request.result.createObjectStore("batches", { keyPath: ["take", "number"] });
    };
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
  return opening;
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
    const transaction = db.transaction(["takes", "batches"], mode, { durability: "strict" });
    const request = work(transaction.objectStore("takes"), transaction.objectStore("batches"));
    transaction.oncomplete = () => resolve(/** @type {T} */ (request?.result));
    transaction.onerror = transaction.onabort = () => reject(transaction.error);
  });
}

/** @param {Kept} take */
export const putTake = (take) => within("readwrite", (takes) => void takes.put(take));

/** @returns {Promise<Kept[]>} */
export const allTakes = () => within("readonly", (takes) => takes.getAll());

/** Keep a batch, and with it how many batches the take has. @param {Kept} take @param {Batch} batch */
export const putBatch = (take, batch) =>
  within("readwrite", (takes, batches) => {
    batches.put(batch);
    takes.put(take);
  });

/** @param {string} id @returns {Promise<Batch[]>} */
export const batchesOf = (id) =>
  within("readonly", (_, batches) => batches.getAll(IDBKeyRange.bound([id, 0], [id, Infinity])));

/** @param {Batch} batch */
export const dropBatch = (batch) =>
  within("readwrite", (_, batches) => void batches.delete([batch.take, batch.number]));

/** @param {string} id */
export const dropTake = (id) =>
  within("readwrite", (takes, batches) => {
    takes.delete(id);
    batches.delete(IDBKeyRange.bound([id, 0], [id, Infinity]));
  });

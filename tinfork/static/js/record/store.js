/**
 * Recordings that are not uploaded yet: stored in the browser's database, over reloads and crashes, until they are
 * imported or deleted.
 *
 * @typedef {{id: string, place: string, name: string, rateHz: number, samples: Float32Array}} Unsent `place`: whose they
 *   are and for what page
 */

const DATABASE = "tinfork-recordings";
const TAKES = "takes";

/** @returns {Promise<IDBDatabase>} */
function open() {
  return new Promise((done, failed) => {
    const request = indexedDB.open(DATABASE, 1);
    request.onupgradeneeded = () => request.result.createObjectStore(TAKES, { keyPath: "id" });
    request.onsuccess = () => done(request.result);
    request.onerror = () => failed(request.error);
  });
}

/**
 * Run one operation on the stored takes; resolves when it is on disk.
 * @template T
 * @param {IDBTransactionMode} mode
 * @param {(takes: IDBObjectStore) => IDBRequest<T>} work
 * @returns {Promise<T>}
 */
async function withTakes(mode, work) {
  const database = await open();
  try {
    return await new Promise((done, failed) => {
      const transaction = database.transaction(TAKES, mode, { durability: "strict" });
      const request = work(transaction.objectStore(TAKES));
      transaction.oncomplete = () => done(request.result);
      transaction.onerror = () => failed(transaction.error);
      transaction.onabort = () => failed(transaction.error);
    });
  } finally {
    database.close();
  }
}

/** Store a take; fails if the browser has no space or forbids it. */
export function keepUnsent(/** @type {Unsent} */ take) {
  return withTakes("readwrite", (takes) => takes.put(take));
}

/** Delete a take. */
export function forgetUnsent(/** @type {string} */ id) {
  return withTakes("readwrite", (takes) => takes.delete(id));
}

/**
 * The stored takes of a page, the oldest first.
 * @param {string} place
 * @returns {Promise<Unsent[]>}
 */
export async function unsentOf(place) {
  const all = /** @type {Unsent[]} */ (await withTakes("readonly", (takes) => takes.getAll()));
  return all.filter((take) => take.place === place).sort((a, b) => a.id.localeCompare(b.id));
}

/** Intervals sorted by start. */

/**
 * The index of the last item whose `start` is at or before `at`; -1 before the first.
 * @param {Array<{start: number}>} items
 * @param {number} at
 */
export function lastStarted(items, at) {
  let low = -1;
  let high = items.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (items[middle].start <= at) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** @type {WeakMap<object, number>} */
const longest = new WeakMap();

/** The length of the longest of some items. */
export function longestOf(/** @type {Array<{start: number, end: number}>} */ items) {
  let found = longest.get(items);
  if (found === undefined) {
    found = items.reduce((most, item) => Math.max(most, item.end - item.start), 0);
    longest.set(items, found);
  }
  return found;
}

/** Loading pictures that are slow to make: two at a time, and only visible ones. */

const AT_ONCE = 2;
const AGAIN_MS = 1500;

/**
 * @param {HTMLImageElement[]} images each with its address in `data-src`
 */
export function fetchInTurn(images) {
  const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  /** @type {HTMLImageElement[]} */
  const waiting = [];
  let busy = 0;
  const next = () => {
    while (busy < AT_ONCE && waiting.length) {
      const image = /** @type {HTMLImageElement} */ (waiting.shift());
      busy += 1;
      load(image, still).finally(() => {
        busy -= 1;
        next();
      });
    }
  };
  const seen = new IntersectionObserver((entries) => {
    for (const entry of entries) {
      if (!entry.isIntersecting || !(entry.target instanceof HTMLImageElement)) continue;
      seen.unobserve(entry.target);
      waiting.push(entry.target);
    }
    next();
  });
  images.forEach((image) => seen.observe(image));
}

/** Load a picture, and retry once if the server was busy. If it fails, its place stays empty. */
async function load(/** @type {HTMLImageElement} */ image, /** @type {boolean} */ still) {
  const source = image.dataset.src || "";
  const address = still ? `${source}${source.includes("?") ? "&" : "?"}still=1` : source;
  for (let tries = 0; tries < 5; tries += 1) {
    const answer = await fetch(address).catch(() => null);
    if (answer?.ok) {
      image.src = URL.createObjectURL(await answer.blob());
      return;
    }
    if (answer && answer.status !== 503) return;
    await new Promise((done) => setTimeout(done, AGAIN_MS));
  }
}

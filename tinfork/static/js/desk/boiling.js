/**
 * Boiling lines: each picture on the Stage shows variants in turn, made by the server like those in movies, or its
 * tracings.
 */

/** The number of variants, as in core/scene/boil.py. */
const VARIANTS = 3;

/**
 * @typedef {{strength: number, rhythm: number}} Boil how much lines boil, and for how many frames each variant is seen
 */

const turnOn = (/** @type {Boil} */ boil, /** @type {number} */ frame) => Math.floor(frame / boil.rhythm);

/**
 * The most parallel requests, since the server makes variants on demand. A request that it was too busy for is
 * repeated.
 */
const AT_ONCE = 2;
const MOST_TRIES = 5;
const AGAIN_MS = 400;

/** Pictures that wait to be requested. @type {Array<{image: HTMLImageElement, url: string}>} */
const waiting = [];
let underWay = 0;

function fetchNext() {
  while (underWay < AT_ONCE && waiting.length) {
    const { image, url } = /** @type {{image: HTMLImageElement, url: string}} */ (waiting.shift());
    // Skip variants of a strength that has changed meanwhile.
    if (!image.isConnected) continue;
    underWay += 1;
    let tries = 0;
    const done = () => {
      underWay -= 1;
      fetchNext();
    };
    image.addEventListener("load", done, { once: true });
    image.addEventListener("error", () => {
      tries += 1;
      if (tries < MOST_TRIES) setTimeout(() => (image.src = url), AGAIN_MS * tries);
      else done();
    });
    image.src = url;
  }
}

/** The variants of one picture, at the same place. */
export class Variants {
  /**
   * @param {HTMLImageElement} image
   * @param {() => string} address where the picture is on the server
   * @param {number} wide heights of the face that the picture is wide
   * @param {string[]} tracings where the same drawing is traced again; they and it are seen in turn
   * @param {() => void} arrived told when one of them is there
   */
  constructor(image, address, wide, tracings, arrived) {
    this.address = address;
    this.tracings = tracings;
    this.arrived = arrived;
    this.image = image;
    this.wide = wide;
    this.strength = 0;
    /** @type {HTMLImageElement[]} */
    this.images = [];
  }

  /** Request them for a strength; visible ones first. */
  fetch(/** @type {number} */ strength, isSeen = false) {
    if (this.tracings.length ? this.images.length : strength === this.strength) return;
    for (const image of this.images) image.remove();
    this.strength = strength;
    const rule = Array.from(
      { length: strength ? VARIANTS : 0 },
      (_, n) => `${this.address()}&boil=${strength}-${n}-${Math.round(this.wide * 10_000)}`,
    );
    const urls = this.tracings.length ? this.tracings : rule;
    this.images = urls.map(() => {
      const image = new Image();
      image.alt = "";
      image.draggable = false;
      image.className = this.image.className;
      image.hidden = true;
      image.addEventListener("load", this.arrived);
      return image;
    });
    this.image.after(...this.images);
    const wanted = this.images.map((image, n) => ({ image, url: urls[n] }));
    if (isSeen) waiting.unshift(...wanted);
    else waiting.push(...wanted);
    fetchNext();
  }

  /** Show the variant of a frame instead of the picture, as soon as it is loaded. */
  show(/** @type {Boil} */ boil, /** @type {number} */ frame) {
    this.fetch(boil.strength, true);
    // The drawing itself comes before its tracings.
    const due = this.tracings.length
      ? this.images[(turnOn(boil, frame) % (1 + this.tracings.length)) - 1]
      : this.images[turnOn(boil, frame) % VARIANTS];
    const isThere = Boolean(due?.complete && due.naturalWidth);
    for (const image of this.images) image.hidden = !isThere || image !== due;
    if (isThere && due.style.cssText !== this.image.style.cssText) due.style.cssText = this.image.style.cssText;
    this.image.classList.toggle("boils", isThere);
  }

  hide() {
    for (const image of this.images) image.hidden = true;
    this.image.classList.remove("boils");
  }
}

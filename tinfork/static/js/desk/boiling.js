/**
 * Lines that boil: each picture on the Stage has variants that take turns, made by the server as movies have them, or the
 * tracings that somebody drew.
 */

/** How many variants take turns, as core/scene/boil.py has it. */
const VARIANTS = 3;

/** @typedef {{strength: number, rhythm: number}} Boil how much lines boil, and for how many frames each variant is seen */

const turnOn = (/** @type {Boil} */ boil, /** @type {number} */ frame) => Math.floor(frame / boil.rhythm);

/** So many are fetched at once: each is made when it is asked for. One that the server had no time for is asked for again. */
const AT_ONCE = 2;
const MOST_TRIES = 5;
const AGAIN_MS = 400;

/** Pictures that wait for their turn. @type {Array<{image: HTMLImageElement, url: string}>} */
const waiting = [];
let underWay = 0;

function fetchNext() {
  while (underWay < AT_ONCE && waiting.length) {
    const { image, url } = /** @type {{image: HTMLImageElement, url: string}} */ (waiting.shift());
    // What boils otherwise by now is not wanted any more.
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

/** The variants of one picture, which lie where it lies. */
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

  /** Have them fetched, for a strength; before others, where they are seen already. */
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

  /** Show the one that is due on a frame in the place of the picture; until it is there, the picture. */
  show(/** @type {Boil} */ boil, /** @type {number} */ frame) {
    this.fetch(boil.strength, true);
    // Of tracings the drawing itself has the first turn.
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

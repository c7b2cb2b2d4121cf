/** Listeners, observers and timers that are removed together. */
export class Scope {
  constructor() {
    /** @type {Array<() => void>} */
    this.ends = [];
  }

  /** @param {() => void} end */
  add(end) {
    this.ends.push(end);
  }

  /**
   * @param {EventTarget} target
   * @param {string} type
   * @param {(event: any) => void} listener
   * @param {AddEventListenerOptions} [options]
   */
  listen(target, type, listener, options) {
    target.addEventListener(type, listener, options);
    this.add(() => target.removeEventListener(type, listener, options));
  }

  /**
   * @param {Element} element
   * @param {() => void} changed
   */
  onResize(element, changed) {
    const observer = new ResizeObserver(changed);
    observer.observe(element);
    this.add(() => observer.disconnect());
  }

  dispose() {
    for (const end of this.ends.splice(0).reverse()) end();
  }
}

/**
 * An observable value.
 * @template T
 */
export class Signal {
  /** @param {T} value */
  constructor(value) {
    this.current = value;
    /** @type {Set<(value: T) => void>} */
    this.followers = new Set();
  }

  get value() {
    return this.current;
  }

  set value(next) {
    if (Object.is(next, this.current)) return;
    this.current = next;
    for (const follower of this.followers) follower(next);
  }

  /**
   * Call a function now and at every change; returns a function that stops it.
   * @param {(value: T) => void} follower
   */
  follow(follower) {
    this.followers.add(follower);
    follower(this.current);
    return () => {
      this.followers.delete(follower);
    };
  }
}

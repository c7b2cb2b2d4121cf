/**
 * The queue of edits, which are sent one after another. None is lost: without a connection they wait, even over a
 * reload, and each is applied once, however often it is sent. An edit that conflicts with a change made meanwhile is
 * stored with the reason until the person repeats or discards it.
 *
 * @typedef {{token: string, name: string, parameters: Record<string, unknown>, seen: number, what: string, late?: boolean}} Edit
 *   `seen`: the revision that was on screen when it was made, `what`: what it is about, in words, `late`: it had to wait
 * @typedef {{edit: Edit, why: string}} Refused
 * @typedef {{getItem: (key: string) => string | null, setItem: (key: string, value: string) => void,
 *   removeItem: (key: string) => void, keys: () => string[]}} Store
 * @typedef {{fetch: (url: string, init: any) => Promise<any>, store: Store, tab: Pick<Store, "getItem" | "setItem">,
 *   wait: (ms: number) => Promise<void>, token: () => string}} World `tab`: what lasts as long as this tab does, over
 *   reloads
 */
import { gettext, ngettext } from "./gettext.js";

/** The delay before a retry, and the time limit of a response. */
const AGAIN_MS = 2500;
const ANSWER_MS = 40_000;
/** The most refused edits that are stored. */
const REFUSED = 50;
/** How many tokens of this tab's own edits are sent, so that they do not count as conflicts. */
const OWN = 60;

/** @returns {World} */
function browser() {
  return {
    fetch: (url, init) => fetch(url, { ...init, signal: AbortSignal.timeout(ANSWER_MS) }),
    store: {
      getItem: (key) => window.localStorage.getItem(key),
      setItem: (key, value) => window.localStorage.setItem(key, value),
      removeItem: (key) => window.localStorage.removeItem(key),
      keys: () => Object.keys(window.localStorage),
    },
    tab: {
      getItem: (key) => window.sessionStorage.getItem(key),
      setItem: (key, value) => window.sessionStorage.setItem(key, value),
    },
    /** Wait until the browser is online again, or some time has passed. */
    wait: (ms) =>
      new Promise((done) => {
        const timer = setTimeout(over, ms);
        function over() {
          clearTimeout(timer);
          window.removeEventListener("online", over);
          done();
        }
        window.addEventListener("online", over);
      }),
    token: () => Array.from(crypto.getRandomValues(new Uint32Array(4)), (n) => n.toString(16)).join(""),
  };
}

export class Sync {
  /**
   * @param {string} url
   * @param {string} token
   * @param {{revision: () => number, changed: (document: any) => void, said: (text: string) => void,
   *   waits?: (count: number) => void}} told
   * @param {World} [world]
   */
  constructor(url, token, told, world = browser()) {
    this.url = url;
    this.token = token;
    this.told = told;
    this.world = world;
    /** Each page has its own entry, so that two tabs do not overwrite each other's edits. */
    this.key = `tinfork-edits ${url} ${world.token()}`;
    /** @type {Edit[]} */
    this.edits = this.left();
    /** An edit may arrive while the page is reloading: it is still this tab's own. */
    this.own = this.ownBefore();
    /** @type {Refused[]} */
    this.refused = this.refusedBefore();
    /** Called when the refused edits change. */
    this.refusals = () => {};
    this.running = false;
    /** The reason why edits cannot be sent, if any. */
    this.trouble = "";
    /** @type {Promise<void>} */
    this.last = Promise.resolve();
    if (this.edits.length) this.last = this.run();
  }

  get waiting() {
    return this.edits.length;
  }

  /**
   * Unsent edits of closed pages. If such a page is still open, it may send them, too: they are applied only once.
   * @returns {Edit[]}
   */
  left() {
    const { store } = this.world;
    const out = [];
    try {
      for (const key of store.keys().filter((one) => one.startsWith(`tinfork-edits ${this.url} `))) {
        const found = JSON.parse(store.getItem(key) || "[]");
        if (Array.isArray(found)) out.push(...found);
        store.removeItem(key);
      }
      for (const edit of out) edit.late = true;
      if (out.length) store.setItem(this.key, JSON.stringify(out));
    } catch {
      // Broken or forbidden storage is empty.
    }
    return out;
  }

  get ownKey() {
    return `tinfork-own ${this.url}`;
  }

  /** @returns {string[]} */
  ownBefore() {
    try {
      const found = JSON.parse(this.world.tab.getItem(this.ownKey) || "[]");
      return Array.isArray(found) ? found : [];
    } catch {
      return [];
    }
  }

  keepOwn(/** @type {string} */ token) {
    this.own = [...this.own, token].slice(-OWN);
    try {
      this.world.tab.setItem(this.ownKey, JSON.stringify(this.own));
    } catch {
      // Storage is full or forbidden: this page still knows them.
    }
  }

  get refusedKey() {
    return `tinfork-refused ${this.url}`;
  }

  /** @returns {Refused[]} */
  refusedBefore() {
    try {
      const found = JSON.parse(this.world.store.getItem(this.refusedKey) || "[]");
      return Array.isArray(found) ? found : [];
    } catch {
      return [];
    }
  }

  setRefused(/** @type {Refused[]} */ refused) {
    this.refused = refused.slice(-REFUSED);
    try {
      if (this.refused.length) this.world.store.setItem(this.refusedKey, JSON.stringify(this.refused));
      else this.world.store.removeItem(this.refusedKey);
    } catch {
      // Storage is full or forbidden: they stay in this page.
    }
    this.refusals();
  }

  /** Repeat a refused edit on the current state. */
  again(/** @type {string} */ token) {
    const found = this.refused.find(({ edit }) => edit.token === token);
    this.leave(token);
    return found ? this.send(found.edit.name, found.edit.parameters, found.edit.what) : this.last;
  }

  /** Discard a refused edit. */
  leave(/** @type {string} */ token) {
    this.setRefused(this.refused.filter(({ edit }) => edit.token !== token));
  }

  keep() {
    try {
      if (this.edits.length) this.world.store.setItem(this.key, JSON.stringify(this.edits));
      else this.world.store.removeItem(this.key);
    } catch {
      // Storage is full or forbidden: the edits still wait in this page.
    }
    this.told.waits?.(this.edits.length);
  }

  /**
   * @param {string} name
   * @param {Record<string, unknown>} [parameters]
   * @param {string} [what] what it is about, in words
   */
  send(name, parameters = {}, what = "") {
    this.edits.push({ token: this.world.token(), name, parameters, seen: this.told.revision(), what });
    this.keep();
    if (!this.running) {
      this.told.said("");
      this.last = this.run();
    }
    return this.last;
  }

  async run() {
    this.running = true;
    while (this.edits.length) {
      const edit = this.edits[0];
      const isDone = await this.one(edit);
      if (!isDone) {
        const count = this.edits.length;
        this.told.said(
          `${this.trouble} ${ngettext("{count} edit waits and will be sent then.", "{count} edits wait and will be sent then.", count)}`,
        );
        await this.world.wait(AGAIN_MS);
        continue;
      }
      this.edits.shift();
      this.keep();
    }
    this.running = false;
  }

  /**
   * Send an edit; false if it must be sent again.
   * @param {Edit} edit
   */
  async one(edit) {
    const isWalk = edit.name === "undo" || edit.name === "redo";
    const revision = isWalk ? this.told.revision() : edit.seen;
    let answer;
    try {
      answer = await this.world.fetch(this.url, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRFToken": this.token },
        // Keep sending if the page is left. Browsers limit the size of that; the next page sends larger edits.
        keepalive: edit.name.length + JSON.stringify(edit.parameters).length < 40_000,
        body: JSON.stringify({
          revision,
          name: edit.name,
          parameters: edit.parameters,
          token: edit.token,
          own: this.own,
          shown: this.told.revision(),
        }),
      });
    } catch {
      return this.held(gettext("No connection. Trying again until it is back."));
    }
    // An error of the server says nothing against the edit: send it again.
    if (answer.status >= 500) return this.held(gettext("The server cannot save this now. Trying again until it can."));
    const told = await answer.json().catch(() => null);
    // The response is the sign-in page, or the CSRF token is not valid any more.
    if (answer.status === 403 || (answer.ok && !told))
      return this.held(gettext("You are signed out. Sign in again in another tab, then reload this page."));
    if (this.trouble) this.told.said("");
    this.trouble = "";
    if (answer.ok) this.keepOwn(edit.token);
    try {
      if (told?.document) this.told.changed(told.document);
    } catch (error) {
      // An error while showing the response must not block later edits.
      console.error(error);
      this.told.said(gettext("The page could not show the answer. Reload it; nothing is lost."));
      return true;
    }
    if (!answer.ok) {
      const why = told?.error || gettext("That failed. Reload the page and try again.");
      // An immediate refusal is only shown; after a conflict or a delay it is stored.
      if (isWalk || (answer.status === 422 && !edit.late)) this.told.said(why);
      else this.setRefused([...this.refused, { edit, why }]);
    }
    return true;
  }

  /** Note why edits cannot be sent. */
  held(/** @type {string} */ why) {
    this.trouble = why;
    for (const edit of this.edits) edit.late = true;
    return false;
  }
}

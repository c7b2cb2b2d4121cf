/**
 * Edits on their way to the server, one after another. None is lost: while there is no connection they wait, also over
 * a reload, and each is done once however often it is sent. What cannot be done any more, because of what was changed
 * meanwhile, is kept with the reason until somebody does it again or leaves it.
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

/** How long until a lost connection is tried again, and how long an answer may take. */
const AGAIN_MS = 2500;
const ANSWER_MS = 40_000;
/** So many changes that could not be kept are remembered. */
const REFUSED = 50;
/** Edits of this tab that the server may still hold against a later one. */
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
    /** Until the browser says the connection is back, or some time has passed. */
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
    /** Each page keeps its own, so that two tabs do not write over each other. */
    this.key = `tinfork-edits ${url} ${world.token()}`;
    /** @type {Edit[]} */
    this.edits = this.left();
    /** An edit may arrive while the page is loaded anew: it is this tab's own all the same. */
    this.own = this.ownBefore();
    /** @type {Refused[]} */
    this.refused = this.refusedBefore();
    /** What is done when these change. */
    this.refusals = () => {};
    this.running = false;
    /** Why nothing arrives, while nothing does. */
    this.trouble = "";
    /** @type {Promise<void>} */
    this.last = Promise.resolve();
    if (this.edits.length) this.last = this.run();
  }

  get waiting() {
    return this.edits.length;
  }

  /**
   * What pages that are gone left unsent. One that is still there may send it too: it is done once all the same.
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
      // A store that is broken or forbidden holds nothing.
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
      // A full or forbidden store: this page knows all the same.
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
      // A full or forbidden store: they stay in this page.
    }
    this.refusals();
  }

  /** A change that could not be kept is made once more, on what is there now. */
  again(/** @type {string} */ token) {
    const found = this.refused.find(({ edit }) => edit.token === token);
    this.leave(token);
    return found ? this.send(found.edit.name, found.edit.parameters, found.edit.what) : this.last;
  }

  /** A change that could not be kept is not wanted any more. */
  leave(/** @type {string} */ token) {
    this.setRefused(this.refused.filter(({ edit }) => edit.token !== token));
  }

  keep() {
    try {
      if (this.edits.length) this.world.store.setItem(this.key, JSON.stringify(this.edits));
      else this.world.store.removeItem(this.key);
    } catch {
      // A full or forbidden store: the edits still wait in this page.
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
   * Send one; false where nobody answered.
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
        // It arrives though the page is left; larger ones browsers do not send so: the next page does.
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
    // Whatever broke on the other side, the edit itself is none the worse for it.
    if (answer.status >= 500) return this.held(gettext("The server cannot save this now. Trying again until it can."));
    const told = await answer.json().catch(() => null);
    // The page to sign in, or a form that is not known any more.
    if (answer.status === 403 || (answer.ok && !told))
      return this.held(gettext("You are signed out. Sign in again in another tab, then reload this page."));
    if (this.trouble) this.told.said("");
    this.trouble = "";
    if (answer.ok) this.keepOwn(edit.token);
    try {
      if (told?.document) this.told.changed(told.document);
    } catch (error) {
      // What cannot be shown must not keep back the edits behind it.
      console.error(error);
      this.told.said(gettext("The page could not show the answer. Reload it; nothing is lost."));
      return true;
    }
    if (!answer.ok) {
      const why = told?.error || gettext("That failed. Reload the page and try again.");
      // What is refused at once is known at once; where others, or a wait, came in between it is kept.
      if (isWalk || (answer.status === 422 && !edit.late)) this.told.said(why);
      else this.setRefused([...this.refused, { edit, why }]);
    }
    return true;
  }

  /** Nothing arrives, for a reason. */
  held(/** @type {string} */ why) {
    this.trouble = why;
    for (const edit of this.edits) edit.late = true;
    return false;
  }
}

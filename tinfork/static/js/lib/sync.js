/** Edits on their way to the server, one after another, each on the revision that the last one gave. */
export class Sync {
  /**
   * @param {string} url
   * @param {string} token
   * @param {{revision: () => number, changed: (document: any) => void, said: (text: string) => void}} told
   */
  constructor(url, token, told) {
    this.url = url;
    this.token = token;
    this.told = told;
    this.last = Promise.resolve();
    this.waiting = 0;
  }

  /**
   * @param {string} name
   * @param {Record<string, unknown>} [parameters]
   */
  send(name, parameters = {}) {
    this.waiting += 1;
    this.last = this.last.then(() => this.one(name, parameters)).finally(() => (this.waiting -= 1));
    return this.last;
  }

  /**
   * @param {string} name
   * @param {Record<string, unknown>} parameters
   */
  async one(name, parameters) {
    let answer;
    try {
      answer = await fetch(this.url, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRFToken": this.token },
        body: JSON.stringify({ revision: this.told.revision(), name, parameters }),
      });
    } catch {
      this.told.said("The connection was lost. That edit was not kept; try it again.");
      return;
    }
    const told = await answer.json().catch(() => null);
    if (told?.document) this.told.changed(told.document);
    if (answer.ok) this.told.said("");
    else this.told.said(told?.error || "That did not work. Reload the page and try again.");
  }
}

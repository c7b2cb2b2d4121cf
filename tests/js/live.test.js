import assert from "node:assert/strict";
import { test } from "node:test";
import { Live } from "../../tinfork/static/js/desk/live.js";
import { Scope } from "../../tinfork/static/js/lib/scope.js";
import { Signal } from "../../tinfork/static/js/lib/signal.js";

/** A stream that says what the test says. */
class Stream extends EventTarget {
  static OPEN = 1;
  readyState = 1;
  close() {}
  says(revision) {
    this.dispatchEvent(Object.assign(new Event("changed"), { data: String(revision || "") }));
  }
}

/** A page at revision 5 whose stream is open, and what it asked of the server, by the revision it had. */
async function page({ mock }) {
  mock.timers.enable({ apis: ["setTimeout", "setInterval"] });
  let now = 1000;
  mock.method(performance, "now", () => now);
  const asked = [];
  let stream;
  globalThis.EventSource = class extends Stream {
    constructor() {
      super();
      stream = this;
    }
  };
  globalThis.document = Object.assign(new EventTarget(), { hidden: false });
  globalThis.window = Object.assign(new EventTarget(), { location: { protocol: "http:", hostname: "here" } });
  globalThis.fetch = async (url) => {
    const since = Number(new URL(url, "http://here").searchParams.get("since"));
    asked.push(since);
    return { ok: true, json: async () => ({ said: "", here: [], document: { revision: since + 1 } }) };
  };
  const shot = { revision: 5, frames: 10 };
  const edits = {
    waiting: new Signal(0),
    take(document) {
      shot.revision = document.revision;
    },
  };
  const transport = { frame: new Signal(0), playing: new Signal(false) };
  new Live({ replaceChildren() {} }, { url: "/changes", live: ":81/live", shot, transport, edits }, new Scope());
  const settled = async (ms = 0) => {
    now += ms;
    mock.timers.tick(ms);
    for (let n = 0; n < 20; n += 1) await null;
  };
  stream.dispatchEvent(new Event("open"));
  await settled(1000);
  assert.deepEqual(asked, [5]);
  asked.length = 0;
  shot.revision = 5;
  return { shot, edits, stream, asked, settled };
}

test("an edit of this page's own is not asked for, whether its answer or the stream is first", async (t) => {
  const { shot, edits, stream, asked, settled } = await page(t);
  edits.waiting.value = 1;
  stream.says(6);
  shot.revision = 6;
  edits.waiting.value = 0;
  await settled(400);
  edits.waiting.value = 1;
  shot.revision = 7;
  edits.waiting.value = 0;
  stream.says(7);
  await settled(400);
  assert.deepEqual(asked, []);
});

test("what another did meanwhile is asked for as soon as this page's edit was answered", async (t) => {
  const { shot, edits, stream, asked, settled } = await page(t);
  edits.waiting.value = 1;
  stream.says(7);
  await settled();
  assert.deepEqual(asked, []);
  shot.revision = 6;
  edits.waiting.value = 0;
  await settled();
  assert.deepEqual(asked, [6]);
});

test("an edit and a remark of another are asked for at once, ten in a row together", async (t) => {
  const { shot, stream, asked, settled } = await page(t);
  stream.says(6);
  await settled();
  assert.deepEqual(asked, [5]);
  await settled(400);
  stream.says(0);
  await settled();
  assert.deepEqual(asked, [5, 6]);
  shot.revision = 20;
  for (let revision = 21; revision <= 30; revision += 1) stream.says(revision);
  await settled(100);
  assert.deepEqual(asked, [5, 6]);
  await settled(300);
  assert.deepEqual(asked, [5, 6, 20]);
});

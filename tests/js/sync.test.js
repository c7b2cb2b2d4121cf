import assert from "node:assert/strict";
import { test } from "node:test";
import { Sync } from "../../tinfork/static/js/lib/sync.js";

/** A page and a server: what is asked is written down, `answers` say what comes back. */
function page(answers, store = new Map(), tab = new Map()) {
  const world = {
    asked: [],
    waits: 0,
    store: { getItem: (key) => store.get(key) ?? null, setItem: (key, value) => store.set(key, value), removeItem: (key) => store.delete(key), keys: () => [...store.keys()] },
    tab: { getItem: (key) => tab.get(key) ?? null, setItem: (key, value) => tab.set(key, value) },
    fetch: async (url, init) => {
      world.asked.push(JSON.parse(init.body));
      const answer = answers.length > 1 ? answers.shift() : answers[0];
      if (answer === "gone") throw new TypeError("network");
      return { ok: answer.status < 400, status: answer.status, json: async () => answer.body };
    },
    wait: async () => {
      world.waits += 1;
    },
    token: () => `t${(world.tokens = (world.tokens || 0) + 1)}`,
  };
  const state = { revision: 5, said: [], documents: [] };
  const sync = new Sync("/edit", "csrf", {
    revision: () => state.revision,
    changed: (document) => {
      state.documents.push(document);
      state.revision = document.revision;
    },
    said: (text) => state.said.push(text),
    waits: (count) => (state.waiting = count),
  }, world);
  return { sync, world, state, store };
}

const ok = (revision) => ({ status: 200, body: { document: { revision } } });

test("edits go one after another, each with what was on screen when it was made", async () => {
  const { sync, world, state } = page([ok(6), ok(7)]);
  sync.send("pin", { first: 1 });
  await sync.send("pin", { first: 2 });
  assert.deepEqual(world.asked.map((a) => [a.revision, a.parameters.first]), [[5, 1], [5, 2]]);
  assert.deepEqual(world.asked[1].own, ["t2"]);
  assert.deepEqual([state.revision, state.waiting], [7, 0]);
});

test("undo is of what is there when its turn comes", async () => {
  const { sync, world } = page([ok(6), ok(7)]);
  sync.send("pin");
  await sync.send("undo");
  assert.deepEqual(world.asked.map((a) => a.revision), [5, 6]);
});

test("without a connection edits wait, say so, and arrive in their order", async () => {
  const { sync, world, state } = page(["gone", "gone", { status: 503 }, ok(6), ok(7)]);
  sync.send("pin", { first: 1 });
  await sync.send("pin", { first: 2 });
  assert.equal(world.waits, 3);
  assert.ok(state.said.some((text) => text.includes("2 edits wait")));
  assert.deepEqual(world.asked.map((a) => a.token), ["t2", "t2", "t2", "t2", "t3"]);
  assert.equal(state.said[state.said.length - 1], "");
});

test("what waited when the page went is sent by the next one, under its old name", async () => {
  const store = new Map();
  const before = page(["gone"], store);
  before.world.wait = () => new Promise(() => {});
  before.sync.send("pin", { first: 1 });
  await new Promise((done) => setImmediate(done));
  const after = page([ok(6)], store);
  await after.sync.last;
  assert.deepEqual(after.world.asked.map((a) => [a.token, a.revision, a.parameters.first]), [["t2", 5, 1]]);
  assert.equal(store.size, 0);
});

test("what a tab did before it was loaded anew is its own", async () => {
  const [store, tab] = [new Map(), new Map()];
  await page([ok(6)], store, tab).sync.send("pin");
  const again = page([ok(7)], store, tab);
  await again.sync.send("clear");
  assert.deepEqual(again.world.asked.map((a) => a.own), [["t2"]]);
  const other = page([ok(8)], store);
  await other.sync.send("clear");
  assert.deepEqual(other.world.asked.map((a) => a.own), [[]]);
});

test("what a tab has kept is no list, or nothing can be kept: edits go on", async () => {
  const tab = new Map([["tinfork-own /edit", "{"]]);
  tab.set = () => {
    throw new Error("full");
  };
  const { sync, world } = page([ok(6), ok(7)], new Map(), tab);
  await sync.send("pin");
  await sync.send("clear");
  assert.deepEqual(world.asked.map((a) => a.own), [[], ["t2"]]);
});

test("behind an edit that is refused the others go on", async () => {
  const { sync, world } = page([{ status: 409, body: { error: "Someone else", document: { revision: 9 } } }, ok(10)]);
  sync.send("pin");
  await sync.send("note");
  assert.deepEqual(world.asked.map((a) => [a.name, a.revision, a.own.length]), [["pin", 5, 0], ["note", 5, 0]]);
});

test("a store that is broken or forbidden does no harm", async () => {
  const store = new Map([["tinfork-edits /edit x", "{nonsense"]]);
  const { sync, world } = page([ok(6)], store);
  world.store.setItem = () => {
    throw new Error("full");
  };
  await sync.send("pin");
  assert.equal(world.asked.length, 1);
});

test("two pages of one shot keep their edits apart", async () => {
  const store = new Map();
  const one = page(["gone"], store);
  const two = page(["gone"], store);
  two.world.token = () => "other";
  for (const each of [one, two]) each.world.wait = () => new Promise(() => {});
  two.sync.key = "tinfork-edits /edit two";
  one.sync.send("pin", { first: 1 });
  two.sync.send("pin", { first: 2 });
  assert.equal(store.size, 2);
  const third = page([ok(6), ok(7)], store);
  await third.sync.last;
  assert.deepEqual(third.world.asked.map((a) => a.parameters.first), [1, 2]);
});

test("whoever is signed out loses nothing", async () => {
  const { sync, world, state } = page([{ status: 200, body: null }, { status: 403, body: null }, ok(6)]);
  await sync.send("pin");
  assert.equal(world.asked.length, 3);
  assert.ok(state.said.some((text) => text.startsWith("You are signed out")));
  assert.equal(state.said[state.said.length - 1], "");
});

test("whatever breaks on the other side, the edit waits and is sent again under its name", async () => {
  const { sync, world, state } = page([{ status: 500 }, { status: 503, body: { error: "no room" } }, { status: 507 }, ok(6)]);
  await sync.send("pin", { first: 1 });
  assert.deepEqual(world.asked.map((a) => a.token), ["t2", "t2", "t2", "t2"]);
  assert.equal(world.waits, 3);
  assert.equal(sync.waiting, 0);
  assert.ok(state.said.some((text) => text.includes("Trying again until it can")));
});

const stale = (why, revision) => ({ status: 409, body: { error: why, document: { revision } } });

test("what somebody else came before is kept with the reason, done again when asked, or left", async () => {
  const { sync, world, state, store } = page([stale("Someone else changed it.", 9), stale("Someone else changed it.", 10), ok(11)]);
  let shown = 0;
  sync.refusals = () => (shown += 1);
  await sync.send("slide", { word: 4 }, "“kettle”");
  await sync.send("slide", { word: 5 }, "“oven”");
  assert.deepEqual(sync.refused.map(({ edit, why }) => [edit.what, why]), [["“kettle”", "Someone else changed it."], ["“oven”", "Someone else changed it."]]);
  assert.deepEqual([shown, state.said.includes("Someone else changed it.")], [2, false]);
  // Another page of the shot knows them, too.
  assert.equal(page([ok(1)], store).sync.refused.length, 2);
  await sync.again(sync.refused[0].edit.token);
  const last = world.asked[world.asked.length - 1];
  assert.deepEqual([last.parameters.word, last.revision], [4, 10]);
  assert.deepEqual(sync.refused.map(({ edit }) => edit.what), ["“oven”"]);
  sync.leave(sync.refused[0].edit.token);
  assert.deepEqual([sync.refused.length, [...store.keys()]], [0, []]);
});

test("what is impossible is said when it is tried; when it had to wait it is kept", async () => {
  const no = { status: 422, body: { error: "There is no room." } };
  const at = page([no]);
  await at.sync.send("edge");
  assert.deepEqual([at.sync.refused, at.state.said[at.state.said.length - 1]], [[], "There is no room."]);
  const late = page(["gone", ok(6), no]);
  late.sync.send("pin");
  await late.sync.send("edge", {}, "“kettle”");
  assert.deepEqual(late.sync.refused.map(({ edit, why }) => [edit.what, why]), [["“kettle”", "There is no room."]]);
});

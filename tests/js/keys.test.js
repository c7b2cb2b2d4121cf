import assert from "node:assert/strict";
import { test } from "node:test";
import { grouped, namesOf, onThisKeyboard, shownOf } from "../../tinfork/static/js/lib/keys.js";

const press = (key, held = {}) => ({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held });

test("a key is shown as it is written on the keyboard, a Mac's with its own signs", () => {
  for (const [event, plain, mac] of [
    [press("k", { ctrlKey: true }), "Ctrl K", "⌘ K"],
    [press("ArrowLeft", { altKey: true, shiftKey: true }), "Alt ⇧ ←", "⌥ ⇧ ←"],
    [press("+"), "+", "+"],
    [press("+", { ctrlKey: true }), "Ctrl +", "⌘ +"],
    [press(" "), "Space", "Space"],
    [press("F7"), "F7", "F7"],
    [press("Enter", { metaKey: true }), "Ctrl Enter", "⌘ ↩"],
  ]) {
    const [name] = namesOf(event);
    assert.equal(shownOf(name, false), plain);
    assert.equal(shownOf(name, true), mac);
  }
  assert.equal(onThisKeyboard("Ctrl Alt ←", true), "⌘ ⌥ ←");
});

test("each command knows its group, which begins with a command that is named", () => {
  const entry = (what) => ({ keys: [], shown: "", what, run: () => {} });
  const table = grouped({ a: entry("a"), b: entry("b"), c: entry("c") }, [["a", "First"], ["c", "Second"]]);
  assert.deepEqual(Object.values(table).map((one) => one.group), ["First", "First", "Second"]);
});

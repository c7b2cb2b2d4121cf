/** Words and sounds that are drawn before the server has answered. */
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";

import { predictedWords } from "../../tinfork/static/js/desk/predictwords.js";

/** What the core makes of thousands of random edits: see `tests/golden/make_words.py`. */
const golden = JSON.parse(readFileSync(new URL("../golden/words.json", import.meta.url), "utf8"));

const shotOf = (rows, durationUs = golden.durationUs) => ({
  durationUs,
  clips: [{ id: 1, end: durationUs }],
  words: rows.map(([id, clip, line, speaker, start, end, pinned]) => ({ id, clip, line, speaker, start, end, pinned: Boolean(pinned), text: "", sure: 1 })),
  phonemes: rows.flatMap(([, , , , , , , sounds], word) => sounds.map(([id, start, end]) => ({ id, start, end, word, ipa: "m", viseme: "", sure: 1 }))),
});

const rowsOf = ({ words, phonemes }) =>
  words.map(({ id, clip, line, speaker, start, end, pinned }, at) => [
    id, clip, line, speaker, start, end, Number(pinned),
    phonemes.filter((sound) => sound.word === at).map((sound) => [sound.id, sound.start, sound.end]),
  ]);

test("what is drawn at once of a word is what the server makes of it, and nothing is drawn of what it refuses", () => {
  let seen = 0;
  for (const { words, cases } of golden.shots) {
    const shot = shotOf(words);
    for (const [name, parameters, changed] of cases) {
      seen += 1;
      const said = predictedWords(shot, name, parameters);
      const what = `${name} ${JSON.stringify(parameters)}`;
      if (!changed) {
        assert.equal(said, null, what);
        continue;
      }
      const now = new Map(changed.map((row) => [row[0], row]));
      const wanted = [...words.filter(([id]) => !now.has(id)), ...changed.filter((row) => row.length > 1)];
      const byNumber = (a, b) => a[0] - b[0];
      assert.deepEqual(rowsOf(said).sort(byNumber), wanted.sort(byNumber), what);
    }
  }
  assert.ok(seen >= 2500);
});

test("sounds stay with their words where words of two speakers pass each other", () => {
  const shot = shotOf([[1, 1, 10, 1, 100_000, 300_000, 0, [[1, 100_000, 300_000]]], [2, 1, 11, 2, 350_000, 500_000, 0, [[1, 350_000, 500_000]]]]);
  const said = predictedWords(shot, "slide", { word: 1, clip: 1, by_us: 400_000, what: "word" });
  assert.deepEqual(said.words.map((word) => word.id), [2, 1]);
  assert.deepEqual(said.phonemes.map((sound) => [sound.word, sound.start]), [[0, 350_000], [1, 500_000]]);
});

test("a word typed anew is written at once, and pinned; two nudges in a row are two", () => {
  const rows = [[1, 1, 10, 1, 100_000, 300_000, 0, [[1, 100_000, 300_000]]]];
  const typed = predictedWords(shotOf(rows), "retype", { word: 1, text: "oven" }).words[0];
  assert.deepEqual([typed.text, typed.pinned], ["oven", true]);
  const once = { ...shotOf(rows), ...predictedWords(shotOf(rows), "slide", { word: 1, by_us: 10_000 }) };
  assert.equal(predictedWords(once, "slide", { word: 1, by_us: 10_000 }).words[0].start, 120_000);
});

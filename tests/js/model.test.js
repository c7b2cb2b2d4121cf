import assert from "node:assert/strict";
import { test } from "node:test";
import { Shot } from "../../tinfork/static/js/desk/model.js";
import { lastStarted } from "../../tinfork/static/js/lib/intervals.js";

const word = (text, start, end, sure = 0.9) => ({ text, start, end, sure, line: 0, speaker: "Odalys" });
const shot = new Shot({
  shot: { name: "020", firstFrame: 101, rate: [24, 1], frames: 48, durationUs: 2_000_000, width: 1920, height: 1080 },
  doubtful: 0.5,
  looks: [
    { key: "a", kind: "doubt", start: 0, end: 1, text: "settled", severity: 0.9, settled: true },
    { key: "b", kind: "doubt", start: 0, end: 1, text: "open", severity: 0.5, settled: false },
  ],
  words: [word("last", 200_000, 500_000), word("tram", 500_000, 900_000, 0.2), word("now", 1_500_000, 1_800_000)],
  phonemes: [{ ipa: "l", viseme: "lateral", start: 200_000, end: 260_000, sure: 1, word: 0 }],
  characters: [
    {
      id: 1,
      drawings: [],
      holds: [
        { start: 0, end: 4, drawing: 1, viseme: "rest" },
        { start: 4, end: 20, drawing: 14, viseme: "open" },
        { start: 20, end: 48, drawing: 1, viseme: "rest" },
      ],
    },
  ],
  turns: [
    { speaker: 1, start: 0, end: 1_000_000, clip: 7 },
    { speaker: 2, start: 500_000, end: 2_000_000, clip: 8 },
  ],
  clips: [
    { id: 7, take: 1, start: 0, end: 1_000_000, gain: 0 },
    { id: 8, take: 1, start: 400_000, end: 2_000_000, gain: -3 },
    { id: 9, take: 2, start: 450_000, end: 1_500_000, gain: 0 },
  ],
  sound: {},
});

test("the last item that started is found, and none before the first", () => {
  const items = [{ start: 10 }, { start: 20 }, { start: 30 }];
  assert.deepEqual([5, 10, 19, 20, 99].map((at) => lastStarted(items, at)), [-1, 0, 0, 1, 2]);
  assert.equal(lastStarted([], 5), -1);
});

test("each frame has the hold that covers it", () => {
  const [character] = shot.characters;
  assert.deepEqual([0, 3, 4, 19, 20, 47].map((f) => shot.holdIndex(character, f)), [0, 0, 1, 1, 2, 2]);
  assert.equal(shot.holdAt(character, 10).drawing, 14);
});

test("what overlaps a span is found, neighbours are not", () => {
  const texts = (from, to) => shot.between(shot.words, from, to).map((w) => w.text);
  assert.deepEqual(texts(0, 200_000), []);
  assert.deepEqual(texts(499_999, 500_000), ["last"]);
  assert.deepEqual(texts(500_000, 500_001), ["tram"]);
  assert.deepEqual(texts(0, 2_000_000), ["last", "tram", "now"]);
  assert.deepEqual(texts(1_000_000, 1_400_000), []);
});

test("a frame knows its words and sounds", () => {
  const heard = shot.heardOn(5);
  assert.deepEqual([heard.words.map((w) => w.text), heard.phonemes.map((p) => p.ipa)], [["last"], ["l"]]);
});

test("the clip at a frame is the one the character speaks in, else the latest to begin", () => {
  const ids = (frame, speaker) => shot.clipOn(frame, speaker)?.id;
  assert.deepEqual([ids(0, 1), ids(14, 1), ids(14, 2), ids(14, 3), ids(40, 1)], [7, 7, 8, 9, 8]);
  shot.take({ clips: [] });
  assert.equal(ids(0, 1), undefined);
});

test("second looks are those that are not settled, frames have numbers, and stay inside the shot", () => {
  assert.deepEqual(shot.secondLooks.map((look) => look.key), ["b"]);
  assert.equal(shot.number(0), 101);
  assert.deepEqual([-5, 10, 99].map((f) => shot.clampFrame(f)), [0, 10, 47]);
});

import assert from "node:assert/strict";
import { test } from "node:test";
import { Viewport } from "../../tinfork/static/js/lib/viewport.js";
import { levelDb, wavOf } from "../../tinfork/static/js/record/wav.js";
import { edgeAt, heightOf, hitAt, lanesOf } from "../../tinfork/static/js/sound/layout.js";
import { SoundShot } from "../../tinfork/static/js/sound/model.js";
import { Tapping } from "../../tinfork/static/js/sound/tapping.js";

const clip = (id, track, start, length, more = {}) => ({ id, track, take: 1, take_length: 20_000_000, start, in: 0, length, voice: 1, fade_in: 0, fade_out: 0, gain: 0, slip: 0, ...more });
const shot = () =>
  new SoundShot({
    revision: 3,
    shot: { firstFrame: 101, durationUs: 10_000_000, lengthUs: 0, frames: 240, rate: [24, 1] },
    tracks: [{ id: 1, name: "Voice", kind: "voice", muted: false }, { id: 2, name: "Effects", kind: "effects", muted: false }],
    clips: [clip(1, 1, 0, 4_000_000, { fade_in: 1_000_000 }), clip(2, 1, 5_000_000, 5_000_000), clip(3, 2, 1_000_000, 500_000, { voice: null })],
    turns: [{ clip: 1, id: 0, speaker: 7, start: 500_000, end: 2_000_000 }, { clip: 2, id: 0, speaker: 8, start: 6_000_000, end: 7_000_000 }],
    words: [],
    characters: [{ id: 7, name: "Odalys", ink: 1 }, { id: 8, name: "Brindle", ink: 2 }],
    takes: {},
    sound: { url: "" },
    reel: null,
  });
const view = () => Object.assign(new Viewport(10_000_000, 10_000_000), { width: 1000 });

test("lanes never overlap and fit the room there is", () => {
  for (const height of [300, 500, 760, 1000]) {
    const lanes = lanesOf(shot(), height);
    assert.deepEqual(lanes.map((lane) => lane.kind), ["ruler", "track", "track", "words", "turns", "turns"]);
    for (let at = 1; at < lanes.length; at += 1) assert.ok(lanes[at].top >= lanes[at - 1].top + lanes[at - 1].height);
    assert.ok(heightOf(lanes) <= height + 4, `${heightOf(lanes)} in ${height}`);
  }
});

test("a point finds the clip, its ends, and the fades of the one in hand", () => {
  const lanes = lanesOf(shot(), 600);
  const y = lanes[1].top + 40;
  const hit = (x, at = y, selection = null) => hitAt(shot(), lanes, view(), x, at, selection);
  assert.deepEqual([hit(200).kind, hit(200).id, hit(200).edge], ["clip", 1, ""]);
  assert.equal(hit(2).edge, "start");
  assert.equal(hit(398).edge, "end");
  assert.equal(hit(450).kind, "track");
  assert.equal(hit(700).id, 2);
  assert.equal(hit(100, lanes[1].top + 5).edge, "");
  assert.equal(hit(100, lanes[1].top + 5, { kind: "clip", id: 1 }).edge, "fade_in");
  assert.equal(hit(400, lanes[1].top + 5, { kind: "clip", id: 1 }).edge, "fade_out");
  assert.equal(hit(120, lanes[2].top + 30).id, 3);
  assert.equal(hit(500, 4).kind, "ruler");
});

test("a point finds a turn in its own character's lane only", () => {
  const lanes = lanesOf(shot(), 600);
  const hit = (x, lane) => hitAt(shot(), lanes, view(), x, lanes[lane].top + 10, null);
  assert.deepEqual([hit(120, 4).kind, hit(120, 4).clip, hit(120, 4).turn], ["turn", 1, 0]);
  assert.deepEqual([hit(120, 5).kind, hit(120, 5).id], ["turns", 8]);
  assert.equal(hit(51, 4).edge, "start");
});

test("short boxes keep a middle to be moved by", () => {
  assert.equal(edgeAt(105, 100, 112), "");
  assert.equal(edgeAt(101, 100, 112), "start");
  assert.equal(edgeAt(111, 100, 112), "end");
});

test("frames are those nearest, numbers those of the sheet", () => {
  assert.equal(shot().nearestFrame(1_020_000), 24);
  assert.equal(shot().nearestFrame(-5), 0);
  assert.equal(shot().number(24), 125);
  assert.equal(shot().selected({ kind: "turn", clip: 2, turn: 0 }).speaker, 8);
  assert.equal(shot().selected({ kind: "clip", id: 99 }), undefined);
});

test("taps of several keys at once become turns, keys still down included", () => {
  const tapping = new Tapping((number) => [7, 8][number - 1]);
  assert.ok(tapping.press(1, 100));
  assert.ok(tapping.press(2, 300));
  assert.ok(!tapping.press(5, 300));
  tapping.press(1, 350);
  tapping.release(1, 500);
  assert.equal(tapping.soFar(600).length, 2);
  assert.deepEqual(tapping.finish(900.4), [
    { speaker: "7", start_us: 100, end_us: 500 },
    { speaker: "8", start_us: 300, end_us: 900 },
  ]);
  assert.deepEqual(tapping.finish(1000), []);
  tapping.release(2, 1000);
  assert.deepEqual(tapping.soFar(1100), []);
});

test("recorded samples are a WAV that says its rate and length, clipped where too loud", () => {
  const data = new DataView(wavOf([new Float32Array([0, 0.5]), new Float32Array([-2, 1])], 48_000));
  const text = (at) => String.fromCharCode(...[0, 1, 2, 3].map((n) => data.getUint8(at + n)));
  assert.deepEqual([text(0), text(8), text(36)], ["RIFF", "WAVE", "data"]);
  assert.equal(data.getUint32(24, true), 48_000);
  assert.equal(data.getUint32(40, true), 8);
  assert.deepEqual([0, 1, 2, 3].map((n) => data.getInt16(44 + 2 * n, true)), [0, 16384, -32767, 32767]);
  assert.equal(levelDb(new Float32Array([0, 0.1])).toFixed(1), "-20.0");
  assert.equal(levelDb(new Float32Array(8)), -90);
});

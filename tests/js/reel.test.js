import assert from "node:assert/strict";
import { test } from "node:test";
import { FrameRate } from "../../tinfork/static/js/lib/clock.js";
import { ReelView } from "../../tinfork/static/js/lib/reel.js";
import { Scope } from "../../tinfork/static/js/lib/scope.js";
import { Signal } from "../../tinfork/static/js/lib/signal.js";

/** A video element of two seconds that goes no further than its end, and counts how often it is sent elsewhere. */
class Video extends EventTarget {
  sent = 0;
  at = 0;
  paused = true;
  seeking = false;
  requestVideoFrameCallback() {
    return 1;
  }
  pause() {
    this.paused = true;
  }
  play() {
    this.paused = false;
    return Promise.resolve();
  }
  get currentTime() {
    return this.at;
  }
  set currentTime(to) {
    this.sent += 1;
    if (this.sent > 20) throw new Error("It is sent there for ever.");
    this.at = Math.min(to, 2);
    this.dispatchEvent(new Event("seeked"));
  }
}

/** A reel of two seconds that begins half a second into the shot, at 24 frames a second; and its parts. */
function reel() {
  const video = new Video();
  const classes = new Set();
  const root = {
    querySelector: () => video,
    classList: { toggle: (name, on) => (on ? classes.add(name) : classes.delete(name)) },
  };
  const transport = {
    playing: new Signal(false),
    frame: new Signal(0),
    speed: new Signal(1),
    audio: { currentTime: 0 },
  };
  const about = { url: "/film", name: "", fromUs: -500_000, durationUs: 2_000_000 };
  new ReelView(root, about, { rate: new FrameRate(24, 1) }, transport, new Scope());
  const at = (frame) => {
    transport.frame.value = frame;
    return [classes.has("over") ? "hidden" : "seen", Math.round(video.at * 1000) / 1000];
  };
  return { at, video, transport, classes };
}

test("standing still, it shows the middle of its frame, and nothing before it begins or long after its end", () => {
  const { at, video } = reel();
  // Frame 24 is from 1 s on: half a second into the reel, and half a frame more.
  assert.deepEqual(at(24), ["seen", 0.521]);
  assert.equal(at(3)[0], "hidden");
  const sent = video.sent;
  assert.equal(at(90)[0], "hidden");
  assert.equal(video.sent, sent);
});

test("the last picture stays for half a second, and is gone to once", () => {
  const { at, video } = reel();
  at(24);
  const sent = video.sent;
  assert.deepEqual(at(62), ["seen", 1.998]);
  assert.deepEqual(at(66), ["seen", 1.998]);
  assert.equal(video.sent, sent + 1);
  assert.equal(at(73)[0], "hidden");
});

test("while it plays, what is over is not played again from its start", () => {
  const { video, transport, classes } = reel();
  transport.playing.value = true;
  transport.audio.currentTime = 1;
  transport.frame.value = 24;
  assert.equal(video.paused, false);
  transport.audio.currentTime = 2.6;
  transport.frame.value = 62;
  assert.deepEqual([video.paused, classes.has("over")], [true, false]);
  transport.audio.currentTime = 3.2;
  transport.frame.value = 76;
  assert.deepEqual([video.paused, classes.has("over")], [true, true]);
});

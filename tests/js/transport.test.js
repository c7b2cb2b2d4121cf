import assert from "node:assert/strict";
import { test } from "node:test";
import { Scope } from "../../tinfork/static/js/lib/scope.js";
import { Transport } from "../../tinfork/static/js/lib/transport.js";

globalThis.MediaError = { MEDIA_ERR_NETWORK: 2, MEDIA_ERR_DECODE: 3, MEDIA_ERR_SRC_NOT_SUPPORTED: 4 };
globalThis.cancelAnimationFrame = () => {};

/** What somebody reads whose sound element fails with this code (HTML, 4.8.11.1: error codes). */
function failing(code) {
  const audio = Object.assign(new EventTarget(), { pause() {}, src: "" });
  const transport = new Transport({ frames: 10, rate: {}, clampFrame: (frame) => frame, sound: { url: "/mix" } }, audio, new Scope());
  assert.deepEqual([audio.src, transport.failed.value], ["/mix", ""]);
  audio.error = { code };
  audio.dispatchEvent(new Event("error"));
  return transport.failed.value;
}

test("sound that does not come asks for the connection, sound that cannot be played for the sound output", () => {
  assert.match(failing(2), /connection/);
  assert.match(failing(4), /connection/);
  assert.match(failing(3), /sound output/);
  assert.doesNotMatch(failing(3), /connection/);
});

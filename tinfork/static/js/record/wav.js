/** Samples as a WAV file (RIFF, 16-bit PCM, mono). */

/**
 * @param {Float32Array[]} chunks -1 to 1
 * @param {number} rateHz
 * @returns {ArrayBuffer}
 */
export function wavOf(chunks, rateHz) {
  const count = chunks.reduce((sum, chunk) => sum + chunk.length, 0);
  const buffer = new ArrayBuffer(44 + count * 2);
  const view = new DataView(buffer);
  const text = (/** @type {number} */ at, /** @type {string} */ word) =>
    [...word].forEach((letter, n) => view.setUint8(at + n, letter.charCodeAt(0)));
  text(0, "RIFF");
  view.setUint32(4, 36 + count * 2, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rateHz, true);
  view.setUint32(28, rateHz * 2, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, "data");
  view.setUint32(40, count * 2, true);
  let at = 44;
  for (const chunk of chunks) {
    for (const sample of chunk) {
      view.setInt16(at, Math.round(Math.max(-1, Math.min(1, sample)) * 32767), true);
      at += 2;
    }
  }
  return buffer;
}

/** The peak of samples in dB of full scale, at least -90. */
export function levelDb(/** @type {Float32Array} */ samples) {
  let peak = 0;
  for (const sample of samples) peak = Math.max(peak, Math.abs(sample));
  return peak > 0 ? Math.max(-90, 20 * Math.log10(peak)) : -90;
}

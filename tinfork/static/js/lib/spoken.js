/** Playing a synthesised response of the server, a WAV in base 64. */

/**
 * @param {HTMLAudioElement} audio
 * @param {string} sound
 */
export function load(audio, sound) {
  const bytes = Uint8Array.from(atob(sound), (c) => c.charCodeAt(0));
  if (audio.src) URL.revokeObjectURL(audio.src);
  audio.src = URL.createObjectURL(new Blob([bytes], { type: "audio/wav" }));
}

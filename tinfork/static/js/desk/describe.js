/** What an edit is about, in words: “kettle”, frames 12 to 15 of Odalys. */

/**
 * @param {import("./model.js").Shot} shot
 * @param {string} name
 * @param {Record<string, any>} parameters
 */
export function describe(shot, name, parameters) {
  const word = shot.words.find((one) => one.id === parameters.word);
  if (word) return parameters.text && parameters.text !== word.text ? `“${word.text}” (to be “${parameters.text}”)` : `“${word.text}”`;
  const who = shot.characters.find((one) => String(one.id) === parameters.speaker)?.name || "";
  const of = who ? ` of ${who}` : "";
  const first = [parameters.first, parameters.frame, parameters.at].find((one) => typeof one === "number");
  if (name === "word_add") return `“${parameters.text}”`;
  if (name === "note") return `the note on frame ${shot.number(parameters.frame)} (“${parameters.text}”)`;
  if (name === "pass_note") return `the note about a pass${of} (“${parameters.text}”)`;
  if (name === "dials") return `the settings${of}`;
  if (name === "stand") return `where ${who} stands`;
  if (name === "ground") return "the background";
  if (name === "boil") return "how lines boil";
  if (name === "gain") return "how loud it is";
  if (name === "settle") return "a second look";
  if (name === "follow_film") return `the keys after the film${of}`;
  if (first === undefined) return who || "this shot";
  const last = typeof parameters.last === "number" ? parameters.last : first;
  return `${first === last ? `frame ${shot.number(first)}` : `frames ${shot.number(first)} to ${shot.number(last)}`}${of}`;
}

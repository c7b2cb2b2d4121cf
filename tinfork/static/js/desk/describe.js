/** Describe what an edit is about: “kettle”, frames 12 to 15 of Odalys. */
import { gettext } from "../lib/gettext.js";

/**
 * @param {import("./model.js").Shot} shot
 * @param {string} name
 * @param {Record<string, any>} parameters
 */
export function describe(shot, name, parameters) {
  const word = shot.words.find((one) => one.id === parameters.word);
  if (word)
    return parameters.text && parameters.text !== word.text
      ? gettext("“{text}” (to be “{text2}”)", { text: word.text, text2: parameters.text })
      : `“${word.text}”`;
  const who = shot.characters.find((one) => String(one.id) === parameters.speaker)?.name || "";
  const of = who ? ` of ${who}` : "";
  const first = [parameters.first, parameters.frame, parameters.at].find((one) => typeof one === "number");
  if (name === "word_add") return `“${parameters.text}”`;
  if (name === "note")
    return gettext("the note on frame {frame} (“{text}”)", {
      frame: shot.number(parameters.frame),
      text: parameters.text,
    });
  if (name === "pass_note") return gettext("the note about a pass{of} (“{text}”)", { of, text: parameters.text });
  if (name === "dials") return gettext("the settings{of}", { of });
  if (name === "stand") return `where ${who} stands`;
  if (name === "ground") return gettext("the background");
  if (name === "boil") return gettext("how lines boil");
  if (name === "gain") return gettext("how loud it is");
  if (name === "settle") return gettext("a second look");
  if (name === "follow_film") return gettext("the keys after the film{of}", { of });
  if (first === undefined) return who || gettext("this shot");
  const last = typeof parameters.last === "number" ? parameters.last : first;
  return `${first === last ? `frame ${shot.number(first)}` : `frames ${shot.number(first)} to ${shot.number(last)}`}${of}`;
}

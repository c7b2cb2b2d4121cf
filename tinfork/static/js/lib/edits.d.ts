// Written by `python -m tinfork.core.commands.schema`: the edits as core/commands declares them.
// Without an import or export they are known to every script.

interface EditParameters {
  /** Place a take, or the part of it from `in_us` to `out_us`, on a track or a new one. */
  place: { take: number; frame: number; kind?: "effects" | "voice"; track?: number | null; in_us?: number | null; out_us?: number | null };
  /** Move a clip: what is heard, what is read in it, or both. */
  move: { clip: number; frame: number; what?: "both" | "reading" | "sound"; track?: number | null };
  /** Let a clip begin or end on another frame. */
  trim: { clip: number; start?: number | null; end?: number | null };
  /** Cut a clip in two. */
  split: { clip: number; frame: number };
  /** Fade a clip in and out. */
  fade: { clip: number; fade_in_us: number; fade_out_us: number };
  /** Make a clip louder or softer, in dB. */
  gain: { clip: number; db: number };
  /** Place a clip a second time. */
  duplicate: { clip: number; frame: number };
  /** Take a clip out of the shot; `closes`: what follows comes up to where it began. */
  remove: { clip: number; closes?: boolean };
  /** Put silence in: everything from a frame on comes later. */
  gap: { frame: number; frames: number };
  /** Move all sound so that speech starts on a frame. */
  begin: { frame: number };
  /** Let the shot be at least so many frames long; 0: as long as its sound. */
  length: { frames: number };
  /** Add a track for voices or for effects. */
  add_track: { name: string; kind?: "effects" | "voice" };
  /** Remove an empty track. */
  remove_track: { track: number };
  /** Mute a track, or let it be heard again. */
  mute_track: { track: number; muted: boolean };
  /** Let a turn begin and end elsewhere. */
  turn_trim: { clip: number; turn: number; start_us: number; end_us: number };
  /** Cut a turn in two. */
  turn_split: { clip: number; turn: number; at_us: number };
  /** Join a turn with the next one. */
  turn_merge: { clip: number; turn: number };
  /** Give a turn to another character. */
  turn_give: { clip: number; turn: number; speaker: string };
  /** Take a turn away. */
  turn_remove: { clip: number; turn: number };
  /** Let a character speak from one time to another. */
  turn_put: { speaker: string; start_us: number; end_us: number };
  /** Lay down turns that were tapped while it played. */
  tap: { taps: Array<{ speaker: string; start_us: number; end_us: number }>; speed: number };
  /** Fix a drawing on frames, or, without one, which frames one drawing has. What is not `exact` may give way. */
  pin: { speaker: string; first: number; last: number; drawing?: number | null; set?: string; exact?: boolean };
  /** Take a pin away. */
  unpin: { pin: number };
  /** Take away what was set by hand on frames. */
  clear: { speaker: string; first: number; last: number };
  /** Let the hold of a frame end, or, `at_start`, begin on another one. */
  stretch: { speaker: string; frame: number; to: number; at_start?: boolean };
  /** Cut a hold in two, both fixed. */
  split_hold: { speaker: string; frame: number };
  /** Give frames to the hold before them. */
  give_to_before: { speaker: string; first: number; last: number };
  /** Show the mouths of some frames so many frames later. */
  nudge: { speaker: string; first: number; last: number; by: number };
  /** Put frames into a column; what follows, up to `until`, comes later. */
  insert_frames: { speaker: string; at: number; frames: number; until?: number | null };
  /** Take frames out of a column; what follows, up to `until`, comes earlier. */
  remove_frames: { speaker: string; first: number; last: number; until?: number | null };
  /** Lay down copied mouths; those of another character (`of`) are matched by their sounds. */
  paste: { speaker: string; at: number; holds: Array<{ frames: number; drawing: number; set?: string }>; of?: string };
  /** Lay down mouths that were tapped while it played. */
  tap_mouths: { speaker: string; taps: Array<{ start_us: number; end_us: number; drawing: number; set?: string }>; speed: number };
  /** Write a note on a frame; or the text of a `note` by its number, wherever it is by now. No text takes it away. */
  note: { frame: number; text: string; note?: number | null };
  /** Move the start or the end of a word, or of one of its sounds; with `gap` the neighbour stays where it is. */
  edge: { word: number; at_us: number; edge?: "end" | "start"; sound?: number | null; gap?: boolean; clip?: number | null };
  /** Move a word, or its whole line, in time. */
  slide: { word: number; by_us: number; what?: "line" | "word"; clip?: number | null };
  /** Write a word otherwise. */
  retype: { word: number; text: string; clip?: number | null };
  /** Let a sound of a word be another one. */
  sound_set: { word: number; sound: number; ipa: string; clip?: number | null };
  /** Put a sound before another one of its word, or `after` it. */
  sound_insert: { word: number; sound: number; ipa: string; after?: boolean; clip?: number | null };
  /** Take a sound out of its word. */
  sound_remove: { word: number; sound: number; clip?: number | null };
  /** Take a word away. */
  word_remove: { word: number; clip?: number | null };
  /** Add a word that is said and was not written. */
  word_add: { speaker: string; text: string; start_us: number; end_us: number };
  /** Set a key on a frame. It keeps its `way` and `step` where none is named. */
  key_set: { speaker: string; part: string; frame: number; x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; way?: "ease" | "hold" | "linear" | "smooth" | null; step?: number | null };
  /** Take the keys of some frames away. */
  key_remove: { speaker: string; part: string; first: number; last: number };
  /** Move the keys of some frames by so many frames. */
  key_move: { speaker: string; part: string; first: number; last: number; by: number };
  /** Make the keys from one frame to another faster or slower: the last one comes to lie on frame `to`. */
  key_spread: { speaker: string; part: string; first: number; last: number; to: number };
  /** Change how the keys of some frames go on to the next ones, and on how many frames each pose is held. */
  key_way: { speaker: string; part: string; first: number; last: number; way?: "ease" | "hold" | "linear" | "smooth" | null; step?: number | null };
  /** Lay copied keys down from a frame on. */
  key_paste: { speaker: string; part: string; at: number; keys: Array<{ x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; frame: number; way?: "ease" | "hold" | "linear" | "smooth"; step?: number }> };
  /** Lay down what was performed with the pointer while it played, in place of the keys of that time. `blend` is how much of it is taken, in hundredths; the rest is what was there. `over` says what was there where this take comes in the place of earlier ones. */
  key_perform: { speaker: string; part: string; path: Array<{ x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; at_us: number }>; speed?: number; blend?: number; over?: { first: number; last: number; keys: Array<{ x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; frame: number; way?: "ease" | "hold" | "linear" | "smooth"; step?: number; by?: string }> } | null };
  /** Propose a character's acting anew, in place of what was proposed before; what a person set stays. `kinds` says how much of each kind, 0 to 100; `strength` how large, 100 as usual; `locked` parts stay as they are. */
  act: { speaker: string; kinds: Record<string, number>; strength?: number; seed?: number; locked?: Array<string> };
  /** Lay down what the face in the film `film` does, on some columns of a character; what else moves stays. It is laid in place of what these columns had while the film lasts; `mirrored`: left is right. */
  follow_film: { speaker: string; film: number; columns: Array<{ part: string; strength?: number; later?: number; drawing?: number | null }>; mirrored?: boolean };
  /** Write a note about a pass, all keys of a column; an empty one takes it away. */
  pass_note: { speaker: string; part: string; text: string };
  /** Show a set (`chart`) of its character's mouths on frames; the first set takes them back. */
  set: { chart: number; first: number; last: number };
  /** Turn dials of a character: some of them (`values`), all as a preset has them, or the production's again. */
  dials: { speaker: string; values?: Record<string, number | boolean> | null; preset?: string | null; usual?: boolean };
  /** Place a character in the shot's picture; `usual`: where it would stand if nobody had placed it. */
  stand: { speaker: string; x?: number | null; y?: number | null; size?: number | null; turn?: number | null; mirrored?: boolean; depth?: number; usual?: boolean };
  /** Put a colour (#rrggbb) behind everyone; with `clear` the background picture goes. */
  ground: { colour: string; clear?: boolean };
  /** Let the lines of everyone's drawings boil: how much, and for how many frames each variant is seen. */
  boil: { strength: number; rhythm?: number };
  /** Mark a second look as settled until its cause changes, or `open` it again. */
  settle: { key: string; open?: boolean };
}

type EditName = keyof EditParameters;
/** An edit with what it is given; undo and redo are given nothing. */
type ShotEdit = { [K in EditName]: [K, EditParameters[K]] }[EditName] | ["undo"] | ["redo"];
type SendEdit = (...edit: ShotEdit) => unknown;

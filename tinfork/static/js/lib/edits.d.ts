// Written by `python -m tinfork.core.commands.schema`: the edits as core/commands declares them.
// Without an import or export they are known to every script.

interface EditParameters {
  /** Place a take, or the part of it from `in_us` to `out_us`, on a track or a new one. */
  place: { take: number; frame: number; kind?: "effects" | "voice"; track?: number | null; in_us?: number | null; out_us?: number | null };
  /** Move a clip: its sound, its reading, or both. */
  move: { clip: number; frame: number; what?: "both" | "reading" | "sound"; track?: number | null };
  /** Make a clip begin or end on another frame. */
  trim: { clip: number; start?: number | null; end?: number | null };
  /** Cut a clip in two. */
  split: { clip: number; frame: number };
  /** Fade a clip in and out. */
  fade: { clip: number; fade_in_us: number; fade_out_us: number };
  /** Make a clip louder or softer, in dB. */
  gain: { clip: number; db: number };
  /** Place a clip a second time. */
  duplicate: { clip: number; frame: number };
  /** Remove a clip from the shot; with `closes`, what follows moves up to where it began. */
  remove: { clip: number; closes?: boolean };
  /** Insert silence: everything from a frame on moves later. */
  gap: { frame: number; frames: number };
  /** Move all sound so that speech starts on a frame. */
  begin: { frame: number };
  /** Set the least length of the shot in frames; 0 for the length of its sound. */
  length: { frames: number };
  /** Add a track for voices or for effects. */
  add_track: { name: string; kind?: "effects" | "voice" };
  /** Remove an empty track. */
  remove_track: { track: number };
  /** Mute or unmute a track. */
  mute_track: { track: number; muted: boolean };
  /** Change where a turn begins and ends. */
  turn_trim: { clip: number; turn: number; start_us: number; end_us: number };
  /** Cut a turn in two. */
  turn_split: { clip: number; turn: number; at_us: number };
  /** Join a turn with the next one. */
  turn_merge: { clip: number; turn: number };
  /** Give a turn to another character. */
  turn_give: { clip: number; turn: number; speaker: string };
  /** Remove a turn. */
  turn_remove: { clip: number; turn: number };
  /** Add a turn: a character speaks from one time to another. */
  turn_put: { speaker: string; start_us: number; end_us: number };
  /** Set turns that were tapped during playback. */
  tap: { taps: Array<{ speaker: string; start_us: number; end_us: number }>; speed: number };
  /** Fix a drawing on frames; without a drawing, fix that these frames show one and the same. A pin that is not `exact` may give way to others. */
  pin: { speaker: string; first: number; last: number; drawing?: number | null; set?: string; exact?: boolean };
  /** Remove a pin. */
  unpin: { pin: number };
  /** Remove everything that was set by hand on frames. */
  clear: { speaker: string; first: number; last: number };
  /** Let the hold of a frame end on another frame, or, with `at_start`, begin on it. */
  stretch: { speaker: string; frame: number; to: number; at_start?: boolean };
  /** Cut a hold in two, and pin both parts. */
  split_hold: { speaker: string; frame: number };
  /** Give frames to the hold before them. */
  give_to_before: { speaker: string; first: number; last: number };
  /** Shift the mouths of some frames by a number of frames. */
  nudge: { speaker: string; first: number; last: number; by: number };
  /** Insert frames into a column; what follows, up to `until`, moves later. */
  insert_frames: { speaker: string; at: number; frames: number; until?: number | null };
  /** Remove frames from a column; what follows, up to `until`, moves earlier. */
  remove_frames: { speaker: string; first: number; last: number; until?: number | null };
  /** Paste copied mouths; those of another character (`of`) are matched by the sounds they show. */
  paste: { speaker: string; at: number; holds: Array<{ frames: number; drawing: number; set?: string }>; of?: string };
  /** Set mouths that were tapped during playback. */
  tap_mouths: { speaker: string; taps: Array<{ start_us: number; end_us: number; drawing: number; set?: string }>; speed: number };
  /** Write a note on a frame, or change the text of a `note` by its number, wherever it is now. An empty text removes it. */
  note: { frame: number; text: string; note?: number | null };
  /** Move the start or the end of a word, or of one of its sounds; with `gap` the neighbour stays where it is. */
  edge: { word: number; at_us: number; edge?: "end" | "start"; sound?: number | null; gap?: boolean; clip?: number | null };
  /** Move a word, or its whole line, in time. */
  slide: { word: number; by_us: number; what?: "line" | "word"; clip?: number | null };
  /** Change how a word is written. */
  retype: { word: number; text: string; clip?: number | null };
  /** Replace a sound of a word by another one. */
  sound_set: { word: number; sound: number; ipa: string; clip?: number | null };
  /** Insert a sound before another one of its word, or `after` it. */
  sound_insert: { word: number; sound: number; ipa: string; after?: boolean; clip?: number | null };
  /** Remove a sound from its word. */
  sound_remove: { word: number; sound: number; clip?: number | null };
  /** Remove a word. */
  word_remove: { word: number; clip?: number | null };
  /** Add a word that is said but missing from the text. */
  word_add: { speaker: string; text: string; start_us: number; end_us: number };
  /** Set a key on a frame. A key that is there keeps its `way` and `step` unless others are given. */
  key_set: { speaker: string; part: string; frame: number; x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; way?: "ease" | "hold" | "linear" | "smooth" | null; step?: number | null };
  /** Remove the keys of some frames. */
  key_remove: { speaker: string; part: string; first: number; last: number };
  /** Move the keys of some frames by so many frames. */
  key_move: { speaker: string; part: string; first: number; last: number; by: number };
  /** Stretch or squeeze the keys from one frame to another in time: the last key moves to frame `to`. */
  key_spread: { speaker: string; part: string; first: number; last: number; to: number };
  /** Change how the keys of some frames lead to the next ones (`way`), and for how many frames each pose is held. */
  key_way: { speaker: string; part: string; first: number; last: number; way?: "ease" | "hold" | "linear" | "smooth" | null; step?: number | null };
  /** Paste copied keys, starting on a frame. */
  key_paste: { speaker: string; part: string; at: number; keys: Array<{ x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; frame: number; way?: "ease" | "hold" | "linear" | "smooth"; step?: number }> };
  /** Set keys from a performance with the pointer during playback; they replace the keys of that time. `blend` is the share of the performance in the result, in hundredths; the rest is what was there before. `over` says what was there before, if this take replaces earlier ones. */
  key_perform: { speaker: string; part: string; path: Array<{ x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; at_us: number }>; speed?: number; blend?: number; over?: { first: number; last: number; keys: Array<{ x?: number; y?: number; turn?: number; stretch?: number; lean?: number; size?: number; bend?: Array<number>; frame: number; way?: "ease" | "hold" | "linear" | "smooth"; step?: number; by?: string }> } | null };
  /** Propose a character's acting anew, replacing earlier proposals; keys that a person set stay. `kinds` is how often each kind of acting occurs, 0 to 100; `strength` is how large the movements are, 100 as usual; `locked` parts are not changed. */
  act: { speaker: string; kinds: Record<string, number>; strength?: number; seed?: number; locked?: Array<string> };
  /** Set the keys of some columns of a character from what the face in the film `film` does; other columns stay. The keys replace what these columns had while the film lasts; `mirrored` swaps left and right. */
  follow_film: { speaker: string; film: number; columns: Array<{ part: string; strength?: number; later?: number; drawing?: number | null }>; mirrored?: boolean };
  /** Write a note about a pass, that is all keys of a column; an empty text removes it. */
  pass_note: { speaker: string; part: string; text: string };
  /** Show a set (`chart`) of its character's mouths on frames; the first set resets them. */
  set: { chart: number; first: number; last: number };
  /** Change dials of a character: some of them (`values`), all of them to a preset, or back to the production's. */
  dials: { speaker: string; values?: Record<string, number | boolean> | null; preset?: string | null; usual?: boolean };
  /** Place a character in the shot's picture; `usual` resets it to its default place. */
  stand: { speaker: string; x?: number | null; y?: number | null; size?: number | null; turn?: number | null; mirrored?: boolean; depth?: number; usual?: boolean };
  /** Set the background colour (#rrggbb); `clear` removes the background picture. */
  ground: { colour: string; clear?: boolean };
  /** Set how the lines of all drawings boil: the strength, and the frames for which each variant is shown. */
  boil: { strength: number; rhythm?: number };
  /** Settle a second look until its cause changes, or reopen it with `open`. */
  settle: { key: string; open?: boolean };
}

type EditName = keyof EditParameters;
/** An edit with what it is given; undo and redo are given nothing. */
type ShotEdit = { [K in EditName]: [K, EditParameters[K]] }[EditName] | ["undo"] | ["redo"];
type SendEdit = (...edit: ShotEdit) => unknown;

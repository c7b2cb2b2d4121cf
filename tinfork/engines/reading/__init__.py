"""Reading a sound with known words, in five stages; each takes a value and returns the next.

hear: samples -> `SoundEvidence` (levels, and the ear's evidence for each size of speaker, once).
words: `SoundEvidence` and the typed words -> `Said` (what is said, by the text, the listener and the ear).
align: `Said` -> `Aligned` (where each sound is, by the ear and by the recogniser).
judge: `Aligned` -> `Judged` (which of the two counts, how sure each sound is, what is amiss).
place: `Judged` -> lines (edges where the sound changes, ends where it has faded).

`rungs` is the table of the steps that are only taken when needed, with their costs; `reader` cuts a sound into pieces
and passes them through the stages. docs/reading.md follows one sentence through.
"""

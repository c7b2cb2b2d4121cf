"""The reading of a sound whose words are known, in five stages; each takes a value and gives the next.

hear: samples -> `Heard` (levels, and the ear's evidence for each size of speaker, once).
words: `Heard` and the typed words -> `Said` (what is said, by the text, the listener and the ear).
align: `Said` -> `Aligned` (where each sound is, by the ear and by the recogniser).
judge: `Aligned` -> `Judged` (which of the two counts, how sure each sound is, what is amiss).
place: `Judged` -> lines (edges where the sound changes, ends where it has faded).

`rungs` is the table of what is done only where it is needed, and what it costs; `reader` cuts a sound into pieces and
sends them through. One sentence on its way: docs/reading.md.
"""

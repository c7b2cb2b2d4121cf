"""The ladder: what is done for every piece of a sound, and what only where it is needed; when, and what that costs.

Costs are seconds of processor time for a second of sound, measured on one core of 2026 (`./run bench reading` has the
whole):

    ear                        always: evidence, and the words laid along it                     0.01
    other sizes of speaker     where a speaker's words fit badly, until their size is known      0.01
    listener                   where it is there, knows the language, and is asked for           0.13
    what was heard instead     at each place where the listener heard other words                0.01
    recogniser                 always; at the speaker's size                                     0.05
    recogniser, no pruning     where it finds no way                                             0.5

The numbers below are what decides; no stage has others of its kind.
"""

#: Other words are believed where they fit better by this (log probability over the place), and by so much more for each
#: syllable that is at stake. On recordings of people that are learnt from, what was misheard fits better than right
#: words by 8 at most, nearly always; what was said instead of planted mistakes by 20 and more.
ENTER, PER_SYLLABLE = 9.0, 4.0
#: That nothing is said where a word was typed is believed for this at least: small words are hardly heard.
ENTER_NOTHING = 20.0
#: A listener that hears more than this share of a piece's words otherwise hardly knows the language or the voice: it is
#: believed for so many times as much, the more the more it is.
USUAL_DOUBTS, DISTRUST = 0.25, 4.0
#: Sounds that belong to no word fit anything: they are believed for this, and for so much each.
ENTER_LOOSE, PER_LOOSE_SOUND = 30.0, 8.0
#: Without a listener, a word is in doubt that fits worse than the better half of its line by this (mean log probability
#: a frame), and a sound that lasts so many frames and fits worse by as much.
UNLIKE, LONG = 2.2, 14
#: The recogniser's way counts while it fits no worse than the ear's own by this, and so much.
NEARLY, RECOGNISER_SHARE = 0.45, 0.4
#: A speaker whose words fit better than this (mean log probability a frame) is as large as usual.
FITS_WELL = -0.5
#: A speaker's size is known after so many words, an accent after so many that tell it, when so many of them agree.
WORDS_OF_SIZE, WORDS_OF_ACCENT, AGREE = 24, 5, 0.7

"""The ladder: which steps are taken for every piece of a sound and which only when needed, with their costs.

Costs are seconds of processor time for a second of sound, measured on one core of 2026 (`./run bench reading` has the
whole):

    ear                        always: evidence, and the words laid along it                     0.01
    other sizes of speaker     where a speaker's words fit badly, until their size is known      0.01
    listener                   where it is there, knows the language, and is asked for           0.13
    what was heard instead     at each place where the listener heard other words                0.01
    recogniser                 always; at the speaker's size                                     0.05
    recogniser, no pruning     where it finds no way                                             0.5

All thresholds of these decisions are below, and nowhere else.
"""

#: Other words are accepted if they fit better by this (log probability over the place), plus this for each syllable
#: concerned. In the training recordings of people, misheard words nearly always fit better than the right ones by at
#: most 8, words that replace planted mistakes by 20 and more.
ENTER, PER_SYLLABLE = 9.0, 4.0
#: The least gain for accepting that a typed word is not said: small words are hard to hear.
ENTER_NOTHING = 20.0
#: A listener that disagrees with more than this share of a piece's words hardly knows the language or the voice: the
#: required gain is multiplied by up to this factor, the more it disagrees.
USUAL_DOUBTS, DISTRUST = 0.25, 4.0
#: Sounds without words fit anything: the gain required for them, and for each of them.
ENTER_LOOSE, PER_LOOSE_SOUND = 30.0, 8.0
#: Without a listener, a word is doubted if it fits worse than the better half of its line by this (mean log probability
#: per frame), and a sound if it lasts this many frames and fits worse by the same.
UNLIKE, LONG = 2.2, 14
#: The recogniser's alignment is used if its fit is not worse than the ear's own by more than these amounts.
NEARLY, RECOGNISER_SHARE = 0.45, 0.4
#: A speaker whose words fit better than this (mean log probability per frame) is of the usual size.
FITS_WELL = -0.5
#: The number of words after which a speaker's size is known.
WORDS_OF_SIZE = 24
#: A speaker's accent: the advantage of the one that the line names (log probability over all words so far); the lead
#: with which one is taken; and that with which no other is tried any more.
NAMED_ACCENT, ACCENT_KNOWN, ACCENT_SURE = 5.0, 4.0, 25.0

"""The limits of sounds, words and pictures."""

MIN_SOUND_S = 0.1
MAX_SOUND_S = 60 * 60
#: A film whose face is followed.
MAX_REFERENCE_S = 10 * 60
MAX_REFERENCE_BYTES = 1024**3
MAX_SOUND_BYTES = 2 * 1024**3
MAX_WORDS = 15_000
MAX_TEXT_CHARACTERS = 200_000
#: The most sounds in one upload.
MAX_SOUNDS = 300

#: Sample rates (Hz) of the recogniser and of the listening copy.
READING_HZ = 16_000
LISTENING_HZ = 48_000

PROBE_TIMEOUT_S = 15
DECODE_TIMEOUT_S = 900
FILM_TIMEOUT_S = 3600

#: Memory of a process that works on one thing: an hour of sound takes 1.2 GB, pictures get less.
CHILD_BYTES = 4 * 1024**3
PICTURE_CHILD_BYTES = 1024**3
#: Address space of a decoder of sounds and films.
PROGRAM_BYTES = 4 * 1024**3
#: The most time to open a file of pictures, a character's archive or a page.
PICTURE_TIMEOUT_S = 90
ARCHIVE_TIMEOUT_S = 600

MAX_PICTURE_BYTES = 64 * 1024 * 1024
MAX_PICTURE_PIXELS = 36_000_000
#: The highest ratio of the longer side to the shorter.
MAX_ASPECT = 40
#: All frames, pages or layers of one file together.
MAX_FILE_PIXELS = 400_000_000
#: The most files in one upload, and drawings (frames, layers) in a file.
MAX_PICTURES = 200
#: The longer side of thumbnails.
THUMB_SIDE = 320
#: The most memory for all drawings of one upload, decoded.
MAX_BROUGHT_BYTES = 512 * 1024 * 1024
#: A face.
MAX_FACE_BYTES = 32 * 1024 * 1024
#: A file of presets.
MAX_DIALS_BYTES = 1024 * 1024
#: A character's archive.
MAX_ARCHIVE_BYTES = 128 * 1024 * 1024

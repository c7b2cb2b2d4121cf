"""What a sound, its words and a picture may measure, in one place."""

MIN_SOUND_S = 0.1
MAX_SOUND_S = 60 * 60
#: A film that acting follows.
MAX_REFERENCE_S = 10 * 60
MAX_REFERENCE_BYTES = 1024**3
MAX_SOUND_BYTES = 2 * 1024**3
MAX_WORDS = 15_000
MAX_TEXT_CHARACTERS = 200_000
#: Sounds brought at once.
MAX_SOUNDS = 300

#: Samples a second that the recogniser hears, and that the listening copy holds.
READING_HZ = 16_000
LISTENING_HZ = 48_000

PROBE_TIMEOUT_S = 15
DECODE_TIMEOUT_S = 900
FILM_TIMEOUT_S = 3600

#: What a process that works on one thing may hold of memory: an hour of sound takes 1.2 GB, pictures have less.
CHILD_BYTES = 4 * 1024**3
PICTURE_CHILD_BYTES = 1024**3
#: What a decoder of sounds and films may take of memory, with all it maps.
PROGRAM_BYTES = 4 * 1024**3
#: How long one file of pictures, an archive of a character, or a page may take to open.
PICTURE_TIMEOUT_S = 90
ARCHIVE_TIMEOUT_S = 600

MAX_PICTURE_BYTES = 64 * 1024 * 1024
MAX_PICTURE_PIXELS = 36_000_000
#: The longer side by the shorter.
MAX_ASPECT = 40
#: All frames, pages or layers of one file together.
MAX_FILE_PIXELS = 400_000_000
#: Files brought at once, and drawings that one file (frames, layers) may hold.
MAX_PICTURES = 200
#: The longer side of the small copies that pages show.
THUMB_SIDE = 320
#: What all drawings that are brought at once take once they are opened.
MAX_BROUGHT_BYTES = 512 * 1024 * 1024
#: A face.
MAX_FACE_BYTES = 32 * 1024 * 1024
#: Named dials as a file.
MAX_DIALS_BYTES = 1024 * 1024
#: A character's archive.
MAX_ARCHIVE_BYTES = 128 * 1024 * 1024

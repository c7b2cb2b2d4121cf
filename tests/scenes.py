"""A small shot of two characters, made up by hand: what each way out must say can be told by looking at it."""

import json

#: 24 frames a second, 2 s, 48 frames.
READING = {
    "version": 1,
    "rate": "24/1",
    "duration": 2.0,
    "lines": [
        {
            "speaker": "Odalys",
            "text": "Bread, Brindle.",
            "language": "en-us",
            "start": 0.25,
            "end": 1.0,
            "words": [
                {
                    "text": "Bread",
                    "start": 0.25,
                    "end": 0.5,
                    "confidence": 0.9,
                    "phonemes": [
                        {"ipa": "b", "viseme": "bilabial", "start": 0.25, "end": 0.3, "confidence": 1},
                        {"ipa": "ɹ", "viseme": "rhotic", "start": 0.3, "end": 0.35, "confidence": 1},
                        {"ipa": "ˈɛ", "viseme": "mid", "start": 0.35, "end": 0.45, "confidence": 1},
                        {"ipa": "d", "viseme": "alveolar", "start": 0.45, "end": 0.5, "confidence": 1},
                    ],
                },
                {
                    "text": "Brindle",
                    "start": 0.5,
                    "end": 1.0,
                    "confidence": 0.4,
                    "phonemes": [
                        {"ipa": "b", "viseme": "bilabial", "start": 0.5, "end": 0.6, "confidence": 1},
                        {"ipa": "n", "viseme": "alveolar", "start": 0.6, "end": 0.8, "confidence": 1},
                        {"ipa": "l", "viseme": "lateral", "start": 0.8, "end": 1.0, "confidence": 1},
                    ],
                },
            ],
        },
        {
            "speaker": "Brindle",
            "text": "はい",
            "language": "ja",
            "start": 1.25,
            "end": 1.5,
            "words": [
                {
                    "text": "はい",
                    "start": 1.25,
                    "end": 1.5,
                    "confidence": 0.9,
                    "phonemes": [{"ipa": "a", "viseme": "open", "start": 1.25, "end": 1.5, "confidence": 1}],
                }
            ],
        },
    ],
    "tracks": [
        {
            "character": "Odalys",
            "holds": [
                {"start": 0, "end": 6, "drawing": 1, "set": "", "viseme": "rest"},
                {"start": 6, "end": 8, "drawing": 2, "set": "", "viseme": "bilabial"},
                {"start": 8, "end": 12, "drawing": 13, "set": "", "viseme": "mid"},
                {"start": 12, "end": 24, "drawing": 7, "set": "", "viseme": "lateral"},
                {"start": 24, "end": 30, "drawing": None, "set": "", "viseme": "rest"},
                {"start": 30, "end": 48, "drawing": 1, "set": "", "viseme": "rest"},
            ],
        },
        {
            "character": "Brindle",
            "holds": [
                {"start": 0, "end": 29, "drawing": 1, "set": "", "viseme": "rest"},
                {"start": 29, "end": 37, "drawing": 14, "set": "", "viseme": "open"},
                {"start": 37, "end": 48, "drawing": 1, "set": "", "viseme": "rest"},
            ],
        },
    ],
    "notes": [{"frame": 12, "text": "=1+1 look left"}],
    "shot": {
        "production": "Last Tram, First Loaf",
        "name": "020 The counter",
        "version": "second pass",
        "first_frame": 101,
        "width": 640,
        "height": 360,
        "figures": [
            {"character": "Odalys", "x": 0.25, "y": 0.5, "size": 0.9, "turn": 0, "mirrored": False, "depth": 0},
            {"character": "Brindle", "x": 0.7, "y": 0.55, "size": 0.8, "turn": 12, "mirrored": True, "depth": 1},
        ],
    },
}


def reading_bytes() -> bytes:
    """The shot as a file."""
    return json.dumps(READING, ensure_ascii=False).encode()

"""Speech: visemes, phonemes, words, lines."""

"""What is said: visemes, phonemes, words, lines."""

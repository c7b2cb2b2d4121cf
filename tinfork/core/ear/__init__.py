"""The ear: which speech sound is heard at each moment, in any language, by a small neural network in numpy."""

"""An ear of our own: which speech sound is heard at each moment, in any language, from a small network in numpy."""

"""File formats, one module each: bytes in, bytes out."""

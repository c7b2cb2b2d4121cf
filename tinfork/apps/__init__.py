"""Django, one thin app per thing people do. May import core and engines."""

"""Tools beside the application, in folders by purpose.

`setup` installs, `start` starts and tests (both called by `run`), `check` checks the code and its texts, `bench`
measures, `attack` acts as a hostile user, `ear` trains the ear, `demo` makes the demo film's sounds and pictures.
"""

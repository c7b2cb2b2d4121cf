"""What is run beside the application, in folders by who runs it.

`setup` installs, `start` starts and tests (both by `run`), `check` looks at the code and its texts, `bench` measures,
`attack` is a hostile user, `ear` trains the ear, `demo` makes the demo film's sounds and pictures.
"""

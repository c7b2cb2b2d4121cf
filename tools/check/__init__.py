"""Checks of the code: dead code, known vulnerabilities, texts for translators, mutation tests.

`./run check` runs `unused` and `audit`; `./run messages` and `./run mutants` run the modules of those names.
"""

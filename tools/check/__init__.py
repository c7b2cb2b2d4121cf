"""Looking at the code, for whoever changes it: dead code, known faults, texts for translators, tests that would notice.

`./run check` runs `unused` and `audit`; `./run messages` and `./run mutants` run the modules of those names.
"""

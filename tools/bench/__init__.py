"""Benchmarks: `./run bench [NAME]`.

Each module is one table of figures, kept as JSON in `bench/`; `docs/measurements.md` says what they mean.
"""

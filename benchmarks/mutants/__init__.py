"""How much of the core the tests hold: small changes to it, and whether a test fails.

``python -m benchmarks.mutants cover`` writes down which test runs which line; then ``python -m
benchmarks.mutants run COUNT SEED`` changes one place at a time and runs the tests of that line. Mutants
that cannot be told from the code are listed with their reasons in docs/mutants.md.
"""

"""Work without a clock: tallies, counted values, the interpreter's steps, memory.

Imports the standard library alone.
"""

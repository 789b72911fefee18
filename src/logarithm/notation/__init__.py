"""How sizes, durations, orders of growth and formulas are written and read.

Imports the standard library and `errors` alone.
"""

"""How sizes, durations, orders of growth and formulas are written and read."""

"""How one cost grows: which orders fit it, its exponent, its regimes, its exact form.

Imports `notation` and the series of `analysis`.
"""

"""How one cost grows: which orders fit it, its exponent, its regimes, its exact form."""

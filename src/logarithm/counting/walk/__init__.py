"""A walk: each event of a call, with the variables after it."""

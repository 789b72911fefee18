"""Counting one call instead of timing it: tallies, steps, memory, a search for the worst case, a walk."""

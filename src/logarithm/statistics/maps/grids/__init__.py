"""The grid of a map: where it was measured, and the surface through it."""

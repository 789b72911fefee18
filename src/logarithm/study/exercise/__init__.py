"""Exercises: what was handed in, and what is worth marks."""

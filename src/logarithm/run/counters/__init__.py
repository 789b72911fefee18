"""Gathering what is counted rather than timed, in processes beside those that are timed.

Imports the parent's side and the plan; knows nothing of a run.
"""

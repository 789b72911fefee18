"""Measuring: from a study to trials in a logbook. Nothing here knows what the numbers mean."""

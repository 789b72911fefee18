"""Measuring: from a study to trials in a logbook.

`run` leads, through `parent`, what `child` does in other processes; the two speak in messages from `shared`.
"""

"""One run, from rehearsal to the last heat, written into a logbook.

Imports `measuring.parent` and `measuring.host`; knows workers through messages only.
"""

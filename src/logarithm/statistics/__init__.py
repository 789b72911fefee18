"""From a logbook to findings, one value with everything concluded.

Imports `logbook` and `notation`; knows no process and no clock.
"""

"""Starts, asks, limits and ends workers and programs.

Imports `measuring.shared`, `measuring.host` and `study`; never the child, which is another process.
"""

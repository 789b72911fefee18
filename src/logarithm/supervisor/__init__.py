"""Starts, asks, limits and ends workers and programs."""

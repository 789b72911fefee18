"""Counted items: values and containers that count what is done to them."""

"""Searching for the instances on which a contender does most work."""

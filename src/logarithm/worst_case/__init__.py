"""Searching for the instances on which a contender does most work. Imports the standard library alone."""

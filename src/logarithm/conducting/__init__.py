"""Whole tasks without their interface: the command line prints what comes of them, Python users get it as values."""

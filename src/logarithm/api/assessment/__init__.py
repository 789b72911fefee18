"""The assessment of a class, and its table."""

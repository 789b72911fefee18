"""A study and its files: read, written down from the cells of a notebook, and what it keeps beside itself."""

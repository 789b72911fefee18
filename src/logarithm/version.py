"""The version of this package, in a leaf that every room may read."""

__version__ = "0.1.0"

"""Code as it is at other commits, taken into a run beside today's."""

"""From a logbook to findings, one value with everything concluded."""

from .. import one_thread

# It brings linear algebra of its own.
one_thread.load("scipy.special")

"""From a logbook to findings, one value with everything concluded."""

from .. import one_thread as one_thread

"""From a logbook to findings, one value with everything concluded."""

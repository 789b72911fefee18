"""Analysis: from a logbook to findings. Nothing here knows of processes or clocks."""

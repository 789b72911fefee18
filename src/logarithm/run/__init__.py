"""One run, from rehearsal to the last heat, written into a logbook."""

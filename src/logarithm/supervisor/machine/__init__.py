"""What machine this is, and how noisy it is now. Imports `measuring.shared` and the logbook's records."""

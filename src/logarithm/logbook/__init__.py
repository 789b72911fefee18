"""The logbook: every observation as it was made."""

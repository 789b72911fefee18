"""The logbook: every observation as it was made, and tables in and out."""

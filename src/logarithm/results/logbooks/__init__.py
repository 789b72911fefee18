"""What several logbooks say together."""

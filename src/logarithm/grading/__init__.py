"""What a class handed in: right or not, how its steps grow, what it costs beside the reference."""

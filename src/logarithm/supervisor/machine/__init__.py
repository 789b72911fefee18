"""What machine this is, and how noisy it is now."""

"""What a run plans: settings, how far each contender gets, how many heats fit. Pure calculation."""

"""Several logbooks beside each other: what changed, and what holds everywhere."""

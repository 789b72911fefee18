"""What a run writes down, and where its seconds go."""

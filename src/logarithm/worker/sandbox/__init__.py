"""Code that was handed in, in a world of its own: what it cannot see, it cannot read, change or end."""

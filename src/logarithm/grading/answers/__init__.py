"""Whether what was handed in is right: who asks, who judges, and the smallest instance that shows it."""

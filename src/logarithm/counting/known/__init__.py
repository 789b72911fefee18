"""Known operations: what happens inside a built-in or an array operation, counted by a table of what each does."""

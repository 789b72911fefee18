"""Work without a clock: tallies, counted values, the interpreter's steps, memory."""

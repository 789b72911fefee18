"""How calls of a contender are timed: inputs at hand, pieces of a trial, whose time it was."""

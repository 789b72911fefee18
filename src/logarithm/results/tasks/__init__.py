"""What single tasks conclude: a rehearsal, a search, a class, a history, a machine."""

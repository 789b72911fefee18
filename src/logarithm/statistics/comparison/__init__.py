"""How costs compare: who leads where, where one overtakes another, what changed."""

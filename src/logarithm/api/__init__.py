"""Everything the command line does, from Python: in a script, or in a notebook, where results show themselves."""

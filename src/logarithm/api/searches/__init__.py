"""Tasks that search: for the worst inputs, for the commits that changed a cost."""

"""What is looked at before anything is measured: do answers agree, which traps are there, how far will each get."""

"""Pages in HTML that need nothing else."""

"""What a call does, counted: its order, its lines, and growth named by work and time together."""

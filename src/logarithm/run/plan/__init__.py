"""What a run plans: settings, how far each contender has climbed, how many heats fit. Pure calculation.

Imports `study`, `notation` and the clock's constants; starts no process.
"""

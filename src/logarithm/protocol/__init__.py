"""What a worker process and its parent share: the messages between them, answers written down, the clock.

Imports the standard library alone.
"""

"""What runs in a worker process, beside the code under study.

Imports the standard library, `measuring.shared`, `study` and `counting`; never the parent.
"""

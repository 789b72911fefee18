"""Work spread over the processors of this machine, or over a cluster. Imports all but the command line.

Whoever has work to be done gives an executor a function and its jobs, and does not know where these are done.
"""

"""Work spread over the processors of this machine, or over a cluster.

Whoever has work to be done gives an executor a function and its jobs, and does not know where these are done.
"""

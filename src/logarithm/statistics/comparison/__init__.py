"""How costs compare: who leads where, where one overtakes another, what changed.

Imports `analysis.growth` and the series of `analysis`.
"""

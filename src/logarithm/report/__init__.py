"""Findings rendered for people; nothing is computed here.

Imports `analysis.findings`, the rows of `assessing`, and `notation`.
"""

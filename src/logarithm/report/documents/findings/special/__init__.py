"""Findings of studies with more than sizes and contenders: two sizes, versions, operations, workloads."""

"""Figures of studies with more than sizes and contenders."""

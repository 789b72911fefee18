"""Figures, drawn by Matplotlib, which is loaded when something is drawn."""

"""The audit: every statement is held against the numbers it rests on, before it is shown."""

"""What is settled while a run goes on: which verdicts are open, and where more trials would tell."""

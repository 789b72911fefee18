"""What is counted rather than timed, in processes beside those that are timed."""

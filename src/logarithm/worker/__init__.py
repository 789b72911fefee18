"""What runs in a worker process, beside the code under study."""

"""What a worker process and the supervisor share: the messages between them, answers written down, the clock."""

"""Tables that come in and go out: trials, calls of a workload."""

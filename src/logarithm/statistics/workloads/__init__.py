"""What calls come to: workloads, mixes of operations, versions with other parameters."""

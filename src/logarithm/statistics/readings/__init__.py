"""What was measured, as arrays: series of trials, the speed of the processor, quantiles."""

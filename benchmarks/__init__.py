"""Benchmarks: ratios and medians within one run. Not tests; nothing fails here but a crash."""

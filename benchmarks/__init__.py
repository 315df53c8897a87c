"""Benchmarks: ratios and medians within one run. Not tests; nothing fails here but a crash."""

import gwiazda  # noqa: F401  before NumPy, as the application has it

"""The core: no Qt, no window, no clock, no randomness without a seed."""

"""The simulated bench: instruments clipped onto the plan's circuits."""

"""Patterns in time, scores of many channels, timers, the simulated controller: numbers and arrays, no models."""

"""Fibre optics: bundles on a lamp, light along a fibre, bends. Physics: numbers and arrays, no models."""

"""Outlines: drawn, traced, read from pictures and SVG."""

"""Sheets drawn as PDF and SVG."""

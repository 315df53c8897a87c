"""Cells, adapters and how they empty."""

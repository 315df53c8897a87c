"""Gwiazda: see a scale model lit before anything is glued."""

__version__ = "0.1.0"

"""Demo plans of our own invention."""

from pathlib import Path

NAMES = ("szron", "perkoz", "swistak", "bryla")


def path_of(name: str = "szron") -> Path:
    """Where a demo plan lies on the disk."""
    return Path(__file__).parent / f"{name}.gwiazda"

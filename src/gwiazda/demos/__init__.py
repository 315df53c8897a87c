"""Demo plans of our own invention."""

from importlib import resources
from pathlib import Path


def path_of(name: str = "szron") -> Path:
    """Where a demo plan lies on the disk."""
    return Path(str(resources.files("gwiazda.demos").joinpath(f"{name}.gwiazda")))

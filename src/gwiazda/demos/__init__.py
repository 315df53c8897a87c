"""Demo plans of our own invention."""

from pathlib import Path

NAMES = ("szron", "perkoz", "swistak", "bryla")
# Their figures, and those of an empty plan, so that the first picture waits for no arithmetic; made by ``make figures``.
FIGURES = tuple(Path(__file__).parent / f"{name}.figures" for name in ("empty", *NAMES))


def path_of(name: str = "szron") -> Path:
    """Where a demo plan lies on the disk."""
    return Path(__file__).parent / f"{name}.gwiazda"

"""Loops compiled by numba, where there is somewhere to keep them."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")
_said: list[bool] = []


def compiled(load: Callable[[], T]) -> T | None:
    """Compiled loops, or None: then NumPy draws, more slowly, which is said once on standard error.

    Parameters
    ----------
    load : callable
        Imports them, and gives back what is wanted of them.

    Returns
    -------
    object or None
        None where neither the package's folder nor the user's cache can be written (numba raises RuntimeError), or where numba
        can't be loaded.

    Raises
    ------
    ImportError
        Where a module of ours isn't there: that is ours to mend, and nothing about this machine.
    """
    try:
        return load()
    except (RuntimeError, ImportError, OSError) as trouble:
        error = trouble
    if isinstance(error, ImportError) and str(error.name).startswith("gwiazda"):
        raise ImportError(str(error)) from error
    if not _said:
        _said.append(True)
        print(
            f"Pictures are drawn more slowly: the faster loops can't be kept on this machine ({error}).",
            file=sys.stderr,
        )
    return None

"""Loops compiled by numba, where there is somewhere to keep them."""

from __future__ import annotations

import importlib
import sys
from types import ModuleType

_said: list[str] = []


def compiled(name: str) -> ModuleType | None:
    """A module of compiled loops, or None: then NumPy draws, more slowly, which is said once on standard error.

    Parameters
    ----------
    name : str
        The module's name within this package.

    Returns
    -------
    module or None
        None where neither the package's folder nor the user's cache can be written (numba raises RuntimeError), or where numba
        can't be loaded.
    """
    try:
        return importlib.import_module(f"gwiazda.core.light.{name}")
    except (RuntimeError, ImportError, OSError) as error:
        if not _said:
            _said.append(name)
            print(
                f"Pictures are drawn more slowly: the faster loops can't be kept on this machine ({error}).",
                file=sys.stderr,
            )
        return None

"""Imports as Python does them, under Qt as well.

Qt for Python reads and keeps the source of every module that is imported after it, in case one asks for its ``__feature__``.
Nobody here does: of a start it takes a fifth, and of memory what the sources of SciPy and Numba weigh.
"""

import builtins

import PySide6.QtCore  # noqa: F401 – before the next line, which undoes what it does

builtins.__import__ = getattr(builtins, "__orig_import__", builtins.__import__)

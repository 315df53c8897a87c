"""An assessment written down, so that opening the same plan again computes nothing before it is shown.

It is kept with what it is of: the plan, the parts, and the version that made it, word for word. Where any of these
differs, or the file is damaged, there is none. What is read makes figures and named tuples and nothing else: no name but
those listed here is looked up, so a file from elsewhere runs nothing.
"""

from __future__ import annotations

import functools
import io
import pickle
import sys
import zlib
from types import FunctionType, MappingProxyType
from typing import Any

import msgspec
import numpy as np

from gwiazda import __version__
from gwiazda.core import assess, effect, fibre
from gwiazda.core.assess.known import as_known
from gwiazda.core.assess.states import Assessment
from gwiazda.core.parts.catalogue import Catalogue, built_in
from gwiazda.core.plan.model import Plan

MAGIC = b"gwiazda figures 1\n"
MARK = len(MAGIC) + 4  # bytes that say of what it is
MOST_BYTES = 20_000_000  # unpacked
# Beside our own named tuples: what their fields are made of, and the functions that levels of light are partials of.
_OTHERS = {
    ("functools", "partial"),
    (__name__, "held"),
    ("numpy", "ndarray"),
    ("numpy", "dtype"),
    ("numpy._core.numeric", "_frombuffer"),
    ("numpy._core.multiarray", "_reconstruct"),
    ("numpy._core.multiarray", "scalar"),
}
_FUNCTIONS = f"{effect.__name__}.patterns"
_TUPLES = tuple(f"{package.__name__}." for package in (assess, effect, fibre))


def held(items: dict[Any, Any]) -> MappingProxyType[Any, Any]:
    """A dictionary that can't be changed; by this name in a file."""
    return MappingProxyType(items)


class _Writer(pickle.Pickler):
    """Writes what an assessment holds; plan and parts are named, not written."""

    def __init__(self, file: io.BytesIO, given: dict[int, str]) -> None:
        super().__init__(file, protocol=5)
        self._given = given

    def persistent_id(self, obj: Any) -> str | None:
        return self._given.get(id(obj))

    def reducer_override(self, obj: Any) -> Any:
        return (held, (dict(obj),)) if type(obj) is MappingProxyType else NotImplemented


class _Reader(pickle.Unpickler):
    """Reads it again: nothing but figures, named tuples and levels of light."""

    def __init__(self, file: io.BytesIO, given: dict[str, Any]) -> None:
        super().__init__(file)
        self._given = given

    def persistent_load(self, pid: str) -> Any:
        return self._given[pid]

    def find_class(self, module: str, name: str) -> Any:
        if (module, name) not in _OTHERS and not module.startswith(_TUPLES):
            raise pickle.UnpicklingError(f"{module}.{name} is no figure")
        __import__(module)
        found = getattr(sys.modules[module], name)
        fits = isinstance(found, type) and issubclass(found, tuple)
        if (module, name) not in _OTHERS and not fits and not (module == _FUNCTIONS and type(found) is FunctionType):
            raise pickle.UnpicklingError(f"{module}.{name} is no figure")
        return found


def _made_of(plan: Plan, catalogue: Catalogue) -> bytes:
    """What an assessment depends on, word for word."""
    catalogue = catalogue.base
    own = b"" if catalogue is built_in() else repr(catalogue).encode()
    return b"\n".join((__version__.encode(), own, msgspec.json.encode(plan)))


def mark_of(plan: Plan, catalogue: Catalogue) -> bytes:
    """What the file of a plan's figures begins with: others needn't be read.

    Parameters
    ----------
    plan : Plan
    catalogue : Catalogue

    Returns
    -------
    bytes
        Of ``MARK`` length, the same for the same plan and parts.
    """
    return _mark(_made_of(plan, catalogue))


def _mark(made_of: bytes) -> bytes:
    return MAGIC + zlib.crc32(made_of).to_bytes(4, "big")


def pack(plan: Plan, assessment: Assessment) -> bytes:
    """An assessment of a plan, as a file.

    Parameters
    ----------
    plan : Plan
    assessment : Assessment
        That of this plan.

    Returns
    -------
    bytes
        For ``unpack``.
    """
    body = io.BytesIO()
    given = {id(assessment.catalogue): "catalogue", id(plan.room): "room"}
    _Writer(body, given).dump(assessment)
    of = _made_of(plan, assessment.catalogue)
    packed = zlib.compress(len(of).to_bytes(8, "big") + of + body.getvalue())
    return _mark(of) + zlib.crc32(packed).to_bytes(4, "big") + packed


def unpack(data: bytes, plan: Plan, catalogue: Catalogue) -> Assessment | None:
    """The assessment in a file, where it is that of this plan with these parts.

    Parameters
    ----------
    data : bytes
        From ``pack``; anything else is passed over.
    plan : Plan
    catalogue : Catalogue

    Returns
    -------
    Assessment or None
        Equal to a fresh one; None where it is of another plan, other parts, another version, or damaged.
    """
    packed, of = data[MARK + 4 :], _made_of(plan, catalogue)
    if data[:MARK] != _mark(of) or zlib.crc32(packed).to_bytes(4, "big") != data[MARK : MARK + 4]:
        return None
    try:
        unpacked = zlib.decompressobj().decompress(packed, MOST_BYTES)
        length = int.from_bytes(unpacked[:8], "big")
        if unpacked[8 : 8 + length] != of:
            return None
        body = io.BytesIO(unpacked[8 + length :])
        found = _Reader(body, {"catalogue": as_known(catalogue, plan), "room": plan.room}).load()
    except Exception:  # whatever a damaged file, or another version of a library, makes of it
        return None
    return found if type(found) is Assessment else None


def same_figures(a: Any, b: Any) -> bool:
    """Whether two assessments, or parts of them, say the same, bit for bit."""
    if a is b:
        return True
    if isinstance(a, np.ndarray) or isinstance(b, np.ndarray):
        return type(a) is type(b) and a.dtype == b.dtype and a.shape == b.shape and a.tobytes() == b.tobytes()
    if isinstance(a, dict | MappingProxyType):
        return (
            isinstance(b, dict | MappingProxyType) and list(a) == list(b) and all(same_figures(a[k], b[k]) for k in a)
        )
    if isinstance(a, tuple):
        return type(a) is type(b) and len(a) == len(b) and all(map(same_figures, a, b))
    if isinstance(a, functools.partial):
        return type(a) is type(b) and a.func is b.func and same_figures(a.keywords, b.keywords)
    return type(a) is type(b) and (repr(a) == repr(b) if isinstance(a, float) else a == b)

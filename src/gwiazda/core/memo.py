"""One memo for all: pure functions remembered for as long as their arguments are the very same, or equal where they are plain values.

Plans share all they did not touch, so identity is exact and free to compare. Strong references to the arguments are
held, so an id can't be reused while its entry lives. Entries move to the front when they are asked for; the last ones
fall off, sooner where their arrays are large, and what nothing has asked for since some plans were opened goes with these (``new_generation``). What is kept can't be changed: arrays are made read-only, dictionaries wrapped. Safe among threads: a value is worked out outside of the lock, and where two threads work out the same one,
the first to end is kept.
"""

from __future__ import annotations

import functools
import re
import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable, Hashable
from operator import is_
from types import MappingProxyType
from typing import Any, Generic, ParamSpec, TypeVar

import numpy as np

from gwiazda.core.turns import give_way

P = ParamSpec("P")
T = TypeVar("T")
_PLAIN = (str, int, float, bool, bytes)
_MAPPINGS = (dict, MappingProxyType)
_HOLDERS = (tuple, list, *_MAPPINGS)
_FIGURES = (float, str)  # a plain tuple that begins and ends with one is a place, or names
_WORDS, _QUOTED = re.compile(r"\w+"), re.compile(r"""(["']).*?\1""")
_FLAT = {
    "str",
    "float",
    "int",
    "bool",
    "None",
    "tuple",
    "Literal",
}  # of these alone a field of figures and names is made
_held: dict[type, bool] = {}  # whether values of a type may hold arrays
_DEEP = 3  # levels of a kept value that are made fast and weighed
MOST_BYTES = 250_000_000  # of arrays that one memo keeps
KEPT_GENERATIONS = 3  # a plan closed and opened again soon is still warm
_generation = 0


def _may_hold(kind: type) -> bool:
    """Whether values of a type may hold arrays: a named tuple of figures and names does not."""
    if issubclass(kind, np.ndarray):
        return True
    fields = getattr(kind, "_fields", None)
    if not issubclass(kind, tuple) or fields is None:
        return issubclass(kind, _HOLDERS)
    said = (kind.__annotations__.get(f, Any) for f in fields)
    said = (str(getattr(one, "__forward_arg__", getattr(one, "__name__", one))) for one in said)
    return not all(set(_WORDS.findall(_QUOTED.sub("", words))) <= _FLAT for words in said)


def _hold_fast(value: Any, deep: int = _DEEP) -> int:
    """Make the arrays of a value that is kept read-only, some levels down; their size in bytes."""
    if isinstance(value, np.ndarray):
        value.setflags(write=False)
        return value.nbytes
    size = 0
    if deep and isinstance(value, _HOLDERS):
        for v in value.values() if isinstance(value, _MAPPINGS) else value:
            # Most are figures, models and places: they are passed over without a call.
            kind = type(v)
            held = _held.get(kind)
            if held is None:
                held = _held[kind] = _may_hold(kind)
            if held and not (kind is tuple and v and type(v[0]) in _FIGURES and type(v[-1]) is type(v[0])):
                size += _hold_fast(v, deep - 1)
    return size


def _fast(value: T) -> T:
    """A value as it is kept: a dictionary can't be changed any more."""
    return MappingProxyType(value) if type(value) is dict else value  # type: ignore[arg-type,return-value]


def same_pieces(a: object, b: object) -> bool:
    """Whether two values are the very same, tuples entry by entry."""
    if a is b:
        return True
    return isinstance(a, tuple) and type(a) is tuple and type(b) is tuple and len(a) == len(b) and all(map(is_, a, b))


def _entries(a: Any, b: Any) -> bool:
    return len(a) == len(b) and all(map(same_value, a, b))


def _flat(a: object, b: object) -> bool:
    if a is b:
        return True
    if type(a) is not type(b):
        return False
    if isinstance(a, _PLAIN):
        return a == b
    return isinstance(a, np.ndarray) and np.array_equal(a, b)  # type: ignore[arg-type]


def same_value(a: object, b: object) -> bool:
    """Whether two values are the very same, or plain ones, named tuples or arrays that are equal.

    What a named tuple holds counts by identity where it isn't plain or an array: a stage's value as large as a room
    would take longer to look through than to make anew.
    """
    if a is b:
        return True
    if type(a) is not type(b):
        return False
    if type(a) is tuple:
        return _entries(a, b)
    if isinstance(a, tuple):
        return len(a) == len(b) and all(map(_flat, a, b))  # type: ignore[call-overload,arg-type]
    return _flat(a, b)


def same_figures(a: object, b: object) -> bool:
    """As ``same_value``, for arguments whose tuples hold figures throughout: thousands are compared at once."""
    return a == b if type(a) is tuple and type(b) is tuple else same_value(a, b)


def same_gathered(a: object, b: object) -> bool:
    """As ``same_figures``, and entry by entry for named tuples that gather what travels together."""
    if a is not b and type(a) is type(b) and isinstance(a, tuple) and type(a) is not tuple:
        return len(a) == len(b) and all(map(same_figures, a, b))  # type: ignore[call-overload,arg-type]
    return same_figures(a, b)


_memos: weakref.WeakSet[Memo[..., Any]] = weakref.WeakSet()


def new_generation() -> None:
    """Another plan is opened: forget what nothing has asked for since some before it were."""
    global _generation
    _generation += 1
    for memo in list(_memos):
        memo.forget_before(_generation - KEPT_GENERATIONS + 1)


class Memo(Generic[P, T]):
    """A remembered function.

    Parameters
    ----------
    function : callable
        Pure: its value depends on its arguments alone.
    slots : int
        Values kept, of each place.
    by : callable, optional
        From the arguments, the place a value belongs to (an item's id): many places are looked up at once.
    places : int
        Places kept.
    same : callable
        Whether an argument counts as the same as one that is kept.
    gathers : bool
        Its value is made of values of other remembered functions: all in it is read-only already, and counted there.
    """

    def __init__(
        self,
        function: Callable[P, T],
        slots: int,
        by: Callable[..., Hashable] | None,
        places: int,
        same: Callable[[Any, Any], bool],
        gathers: bool = False,
    ) -> None:
        functools.update_wrapper(self, function)
        self.function, self.slots, self.by, self.places, self.same, self.gathers = (
            function,
            slots,
            by,
            places,
            same,
            gathers,
        )
        self._lock = threading.Lock()
        self._kept: OrderedDict[Hashable, list[tuple[tuple[Any, ...], T, int]]] = OrderedDict()
        self._asked: dict[Hashable, int] = {}  # the generation in which each place was asked for last
        self._bytes = 0
        _memos.add(self)

    def _place(self, args: tuple[Any, ...]) -> Hashable:
        return self.by(*args) if self.by is not None else None

    def _find(self, place: Hashable, args: tuple[Any, ...]) -> tuple[bool, T | None]:
        entries = self._kept.get(place)
        if entries is None:
            return False, None
        for i, (key, value, _) in enumerate(entries):
            if len(key) == len(args) and (all(map(is_, key, args)) or all(map(self.same, key, args))):
                if i:
                    entries.insert(0, entries.pop(i))
                return True, value
        return False, None

    def __call__(self, *args: P.args, **kwargs: P.kwargs) -> T:
        assert not kwargs, "a remembered function is called by position"
        give_way()
        place = self._place(args)
        with self._lock:
            there, value = self._find(place, args)
            if there:
                if self.by is not None:
                    self._kept.move_to_end(place)
                self._asked[place] = _generation
                return value  # type: ignore[return-value]
        made = _fast(self.function(*args, **kwargs))
        size = 0 if self.gathers else _hold_fast(made)
        with self._lock:
            there, value = self._find(place, args)
            if there:
                return value  # type: ignore[return-value]
            self._asked[place] = _generation
            entries = self._kept.setdefault(place, [])
            entries.insert(0, (args, made, size))
            self._bytes += size
            while len(entries) > self.slots:
                self._bytes -= entries.pop()[2]
            self._kept.move_to_end(place)
            while len(self._kept) > self.places:
                self._drop(next(iter(self._kept)))
            if self._bytes > MOST_BYTES:
                self._relieve()
        return made

    def _relieve(self) -> None:
        """Keep no more bytes than that: what places had before goes first, then those that were not asked for longest."""
        for entries in self._kept.values():
            while len(entries) > 1 and self._bytes > MOST_BYTES:
                self._bytes -= entries.pop()[2]
        while self._bytes > MOST_BYTES and len(self._kept) > 1:
            self._drop(next(iter(self._kept)))

    def _drop(self, place: Hashable) -> None:
        self._bytes -= sum(entry[2] for entry in self._kept.pop(place))
        self._asked.pop(place, None)

    def forget_before(self, generation: int) -> None:
        """Forget what was asked for last in generations before that one."""
        with self._lock:
            for place in [p for p, last in self._asked.items() if last < generation]:
                self._drop(place)

    def peek(self, *args: P.args, **kwargs: P.kwargs) -> T | None:
        """The value if it is kept, else None."""
        assert not kwargs
        with self._lock:
            return self._find(self._place(args), args)[1]

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()
            self._asked.clear()
            self._bytes = 0

    def __len__(self) -> int:
        return sum(len(entries) for entries in self._kept.values())


def memoize(
    slots: int = 4,
    *,
    by: Callable[..., Hashable] | None = None,
    places: int = 1,
    same: Callable[[Any, Any], bool] = same_pieces,
    gathers: bool = False,
) -> Callable[[Callable[P, T]], Memo[P, T]]:
    """Remember a pure function; see ``Memo``."""
    return lambda function: Memo(function, slots, by, places, same, gathers)


def memoize_by_value(most: int | None = None) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Remember a pure function of a few plain, hashable values (figures, names): the ``most`` that were asked last, or all."""

    def remember(function: Callable[P, T]) -> Callable[P, T]:
        @functools.lru_cache(maxsize=most)
        @functools.wraps(function)
        def made(*args: Any, **kwargs: Any) -> T:
            value = _fast(function(*args, **kwargs))
            _hold_fast(value)
            return value

        return made  # type: ignore[return-value]

    return remember

"""Two windows, or two people, at one workshop: what each changed of it counts, and not whose saving came last."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from types import MappingProxyType
from typing import Any, TypeVar

from gwiazda.core.files import locked, make_folder
from gwiazda.core.workshop.drawer_csv import Held
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop, state_of

K = TypeVar("K")
V = TypeVar("V")


def _mine(base: Any, mine: Any, theirs: Any) -> Any:
    return mine


def _counted(base: Held | None, mine: Held, theirs: Held) -> Held:
    """Taken out here and there: both are gone from the drawer."""
    before = base.amount if base is not None else 0.0
    where = mine.where if base is None or mine.where != base.where else theirs.where
    return mine._replace(amount=max(theirs.amount + mine.amount - before, 0.0), where=where)


def _merged(
    base: Mapping[K, V], mine: Mapping[K, V], theirs: Mapping[K, V], both: Callable[[Any, Any, Any], V] = _mine
) -> Mapping[K, V]:
    """What is on the disk now, with what changed here since ``base`` was read."""
    out = dict(theirs)
    for key in {**base, **mine}:
        if key not in mine:
            out.pop(key, None)
        elif key not in base or mine[key] != base[key]:
            out[key] = both(base.get(key), mine[key], theirs[key]) if key in theirs else mine[key]
    return MappingProxyType(out)


def _both(base: Sequence[V], mine: Sequence[V], theirs: Sequence[V]) -> tuple[V, ...]:
    """A list that only grows at its end, or is emptied: theirs, less what was taken out here, and what was added here."""
    out, added = list(theirs), list(mine)
    for item in base:
        if item in added:
            added.remove(item)
        elif item in out:
            out.remove(item)
    return (*out, *added)


def merged(base: Workshop, mine: Workshop, theirs: Workshop) -> Workshop:
    """A workshop with what was changed here (from ``base`` to ``mine``) and elsewhere (from ``base`` to ``theirs``).

    Counts of the drawer that changed in both places add up; of anything else that did, what was changed here counts.
    """
    lamps = _merged(base.lamps, mine.lamps, theirs.lamps)
    families = _merged(base.families, mine.families, theirs.families)
    used = {p.family for p in lamps.values()}
    return replace(
        mine,
        lamps=lamps,
        families=MappingProxyType({k: v for k, v in families.items() if k in used}),
        coats=_merged(base.coats, mine.coats, theirs.coats),
        light_kinds=_merged(base.light_kinds, mine.light_kinds, theirs.light_kinds),
        own=_merged(base.own, mine.own, theirs.own),
        drawer=_merged(base.drawer, mine.drawer, theirs.drawer, _counted),
        kept=_merged(base.kept, mine.kept, theirs.kept),
        learned=_merged(base.learned, mine.learned, theirs.learned),
        compared=_both(base.compared, mine.compared, theirs.compared),
    )


def keep_workshop(
    base: Workshop, mine: Workshop, folder: Path, state: tuple[str | None, ...]
) -> tuple[Workshop, tuple[str | None, ...]]:
    """Save a changed workshop, with what others have saved there since ``base`` was read at ``state``.

    Returns
    -------
    tuple of Workshop and state
        What is kept now.

    Raises
    ------
    PlanFileError
        When it can't be written.
    """
    make_folder(folder)
    with locked(folder / ".lock"):
        if state != state_of(folder):
            theirs, _ = load_workshop(folder)
            mine = merged(base, mine, theirs)
        save_workshop(mine, folder)
        return mine, state_of(folder)

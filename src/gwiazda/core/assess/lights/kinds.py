"""Kinds of lights for a kit: the usual ones first, and found by what people type."""

from __future__ import annotations

from gwiazda.core.assess.lamp.modified_lamp import plain
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lights import LightKind

OTHER = "other"


def kinds_for(catalogue: Catalogue, kit: str) -> tuple[LightKind, ...]:
    """All kinds, those that such a kit has first, in the order of the catalogue."""
    kinds = catalogue.light_kinds.values()
    return tuple(sorted(kinds, key=lambda k: (k.id == OTHER, bool(k.kits) and kit not in k.kits, not k.kits)))


def usual(kind: LightKind, kit: str) -> bool:
    """Whether kits of that kind have it."""
    return not kind.kits or kit in kind.kits


def kind_of(catalogue: Catalogue, kind: str) -> LightKind:
    """A kind by its id; one that the catalogue hasn't got counts as any other light."""
    return catalogue.light_kinds.get(kind) or catalogue.light_kinds[OTHER]


def matching(catalogue: Catalogue, kit: str, typed: str) -> tuple[LightKind, ...]:
    """Kinds whose names or words begin with all that was typed: by name before by word, of this kit before others."""
    asked = typed.lower().split()
    if not asked:
        return kinds_for(catalogue, kit)

    def rank(kind: LightKind) -> int | None:
        name, words = kind.name.lower().split(), kind.words.lower().split()
        if all(any(w.startswith(a) for w in name) for a in asked):
            return 0 if name[0].startswith(asked[0]) else 1
        if all(any(w.startswith(a) for w in (*name, *words)) for a in asked):
            return 2
        return 3 if all(a in kind.name.lower() for a in asked) else None

    ranked = [(r, not usual(k, kit), k) for k in kinds_for(catalogue, kit) if (r := rank(k)) is not None]
    return tuple(k for _, _, k in sorted(ranked, key=lambda row: (row[0] > 1, row[1], row[0])))


def hue_of(catalogue: Catalogue, colour: str) -> tuple[float, float, float]:
    """The colour of lamps that are called so, linear sRGB; white for one that there is none of."""
    part = next((p for p in catalogue.lamps.values() if p.colour == colour and not p.body), None)
    return plain(part).rgb if part is not None else (1.0, 1.0, 1.0)


def arc_words(kind: LightKind) -> str:
    """In which arc it shows, or what it is, in a word or two: “225°”, “all round”, “windows”."""
    if kind.placing != "point":
        return "windows" if kind.placing == "row" else "lit room"
    wide = kind.arc_deg
    arc = "all round" if wide >= 360.0 else (f"{wide:g}°" if wide > 0 else "")
    return f"pair, {arc}" if kind.pair and arc else ("pair" if kind.pair else arc)

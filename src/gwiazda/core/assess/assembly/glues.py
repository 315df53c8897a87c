"""What glues what: for each pair of materials in a section the adhesives that hold, that are weak, that hurt, and why.

House values after the catalogue's adhesives. Materials: ``body`` (the kit's bare plastic), or ``metal``, ``wood``, ``resin``, ``paper`` where the section is of that, ``paint`` (a painted face), ``clear`` (panes, lenses),
``fibre`` (PMMA), ``lamp`` (its resin body), ``wire`` (insulation or bare copper).
"""

from __future__ import annotations

from typing import Literal, NamedTuple

from gwiazda.core.assess.assembly.contents import Contents
from gwiazda.core.assess.optics.skin import material_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import Adhesive
from gwiazda.core.plan.model import Section

Verdict = Literal["holds", "weak", "hurts", "no"]
RANK: dict[str, int] = {"holds": 0, "weak": 1, "hurts": 2, "no": 3}
PASSES_LIGHT = ("clear", "fibre", "lamp")
SAID = {"body": "plastic"}
SHELLS = ("body", "metal", "wood", "resin", "paper")  # what a section itself may be of


class Advice(NamedTuple):
    """An adhesive for a pair of materials."""

    glue: Adhesive
    verdict: Verdict
    why: str


class Joined(NamedTuple):
    """Two materials of a section that are to hold together, with what they are in words."""

    what: str
    a: str
    b: str


def advise(catalogue: Catalogue, a: str, b: str) -> tuple[Advice, ...]:
    """Every adhesive for a pair, the best first: what holds before what is weak, the usual choice for such a pair, what comes apart again
    before what doesn't, the quicker."""
    out = [_judged(glue, a, b) for glue in catalogue.adhesives.values()]
    out.sort(
        key=lambda x: (
            RANK[x.verdict],
            not _usual(x.glue, a, b),
            x.glue.takes_apart == "no",
            x.glue.handle_h,
            x.glue.id,
        )
    )
    return tuple(out)


def _usual(glue: Adhesive, a: str, b: str) -> bool:
    """Whether a pair is what the adhesive is for: two shells, or what is fixed to one."""
    return any(m in glue.first_for for m in {a, b}.difference(SHELLS) or {a, b})


def _judged(glue: Adhesive, a: str, b: str) -> Advice:
    hurt = [glue.attacks[m] for m in dict.fromkeys((a, b)) if m in glue.attacks]
    if hurt:
        return Advice(glue, "hurts", " and ".join(hurt))
    if glue.bonds and not {a, b} <= set(glue.bonds):
        return Advice(glue, "no", f"melts {' and '.join(SAID.get(m, m) for m in glue.bonds)} only")
    if glue.needs_light and a not in PASSES_LIGHT and b not in PASSES_LIGHT:
        return Advice(glue, "no", "no light reaches the joint")
    # At a pane or a fibre a shell only has to be stuck to: what is weak between two shells will do.
    if any(m in glue.weak for m in ({a, b}.difference(SHELLS) or {a, b})):
        return Advice(glue, "weak", "no more than a fixing")
    return Advice(glue, "holds", "" if glue.takes_apart == "no" else f"comes off: {glue.takes_apart}")


def shell_of(catalogue: Catalogue, section: Section, kit_material: str) -> str:
    """What a section is of, as adhesives know it; plastic where that isn't known."""
    material = catalogue.materials.get(material_of(section, kit_material))
    return "body" if material is None or material.kind == "plastic" else material.kind


def joined_in(catalogue: Catalogue, c: Contents, kit_material: str) -> tuple[Joined, ...]:
    """What is to be held together in a section."""
    out, shell = [], shell_of(catalogue, c.section, kit_material)
    if c.section.closure.by == "glue":
        out.append(Joined(c.section.closure.part or "The closing", shell, shell))
    if any(o.glazing != "none" for o in c.openings):
        out.append(Joined("Panes", "clear", shell))
    if any(p.mount != "fibre" for p in c.lamps):
        out.append(Joined("Lamps", "lamp", shell))
    if c.dots:
        out.append(Joined("Fibres", "fibre", shell))
    if c.joints:
        out.append(Joined("Wires", "wire", shell))
    return tuple(out)


def glue_words(catalogue: Catalogue, c: Contents, kit_material: str) -> tuple[str, ...]:
    """A line for each pair of a section: what to take, what else would do, what to keep away, and moving parts."""
    out = []
    for pair in joined_in(catalogue, c, kit_material):
        found = advise(catalogue, pair.a, pair.b)
        good = [x for x in found if x.verdict == "holds"]
        bad = [x for x in found if x.verdict == "hurts"]
        if not good:
            out.append(f"{pair.what}: no glue of the catalogue holds {pair.a} to {pair.b} for sure; try it on scrap.")
            continue
        best = good[0]
        hold = f"{best.glue.handle_h * 60:.0f} min" if best.glue.handle_h < 1 else f"{best.glue.handle_h:g} h"
        words = f"{pair.what}: {best.glue.name.lower()}, held {hold}" + (f", {best.why}" if best.why else "")
        if len(good) > 1:
            words += f"; or {good[1].glue.name.lower()}"
        if bad:
            words += f". Not {bad[0].glue.name.lower()}: it {bad[0].why}"
        out.append(words + ".")
    if any(w.joint == "hinge" for w in c.passages):
        thin = [g.name.lower() for g in catalogue.adhesives.values() if "moving" in g.attacks]
        out.append(f"Keep {' and '.join(thin)} away from the hinge: they creep into it.")
    return tuple(out)

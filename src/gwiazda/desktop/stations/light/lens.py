"""A lens set into an opening: what it is made from, its seat, how it looks with the lamp behind it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from gwiazda.core.assess.optics.lenses import behind_mm, dome_mm, face_shown_mm, hole_share, lens_of, width_mm
from gwiazda.core.light.lens import focal_mm
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Lens, Opening, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_hours
from gwiazda.desktop.forms.common import parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, millimetres
from gwiazda.desktop.panels.panel import PanelCard


def _take_made(card: LensCard, made: str) -> None:
    ids = [o.id for o in card.items()]
    if made:
        card.set("Change the lens", made=made)
    else:
        card.document.edit("No lens", lambda plan: edits.set_fields(plan, ids, lens=None))


def _has_lens(card: LensCard) -> bool:
    return all(o.lens is not None for o in card.items())


def of_lens(path: str) -> Callable[[Opening], Any]:
    return lambda o: getattr(o.lens, path) if o.lens is not None else None


class LensCard(PanelCard):
    """A lens set into openings that lead outside."""

    title = "Lens"
    model = Lens
    fields = (
        Field(
            "made", "Made from", Choice(parts("lenses", ("", "none"))), "What the lens is made from; its seat and its work follow",
            name="Lens made from", get=lambda o: o.lens.made if o.lens is not None else "", takes=_take_made,
        ),
        Field("lip_mm", "Lip left", millimetres(), "Left all round when the hole is cut, 1 to 2 mm as a rule: the lens sits on it",
              "Change the bearing lip", name="Bearing lip", get=of_lens("lip_mm"), shown=_has_lens),
        Field("dome_mm", "Dome", millimetres(), "How far it stands out; 0 as such lenses usually come out", "Change the dome",
              get=of_lens("dome_mm"), shown=_has_lens),
        Field("backed", "", Flag("silver still on its back"),
              "It is scraped off with a blade’s edge before the lens is set; no light comes through until then", "Scrape the silver",
              get=of_lens("backed"), shown=_has_lens),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        for o in items:
            room = min(o.width_mm, o.height_mm)
            lens = o.lens if o.lens is not None else Lens(lip_mm=min(1.0, round(room / 5, 2)))
            own = {**fields, "lip_mm": 0.0} if fields.get("made") == "lamp" else fields
            plan = edits.set_fields(plan, [o.id], lens=edits.copy_checked(lens, **own))
        return plan

    def say(self) -> None:
        self.card.setVisible(all(not o.into and o.hole for o in self.items()))
        self.words.setText(self._words(self.first) if _has_lens(self) else "")
        self.words.setVisible(_has_lens(self))

    def _words(self, o: Opening) -> str:
        catalogue, plan = self.document.catalogue, self.plan
        part = lens_of(catalogue, o)
        if part is None:
            return ""
        assert o.lens is not None
        wide = width_mm(o)
        high = dome_mm(o.lens, wide, part)
        wait = part.wait_h + part.wait_h_mm * high
        cures = f", {format_hours(wait)} to cure" if wait else ""
        text = (
            f"{part.each_min:g} min of hands on{cures}. Its seat leaves {hole_share(o) * 100:.0f} % of the hole open."
        )
        focal = focal_mm(wide, high, part.refraction)
        homes = lamps_by_section(plan.sections, plan.lamps)
        mine = [p for p in plan.lamps if homes.get(p.id) == o.section and p.part in catalogue.lamps]
        if mine and focal < 1e6:
            near = min(mine, key=lambda p: sum((a - b) ** 2 for a, b in zip(p.at, o.at, strict=True)))
            spot = face_shown_mm(catalogue, o, near, catalogue.lamps[near.part])
            text += (
                f" A dome of {high:.1f} mm has its focus {focal:.1f} mm behind; {name_of(plan, near.id)}, {behind_mm(o, near):.1f} mm behind, "
                f"shows as a spot of <b>{figure(spot, 2)} mm</b> where it is in line."
            )
        return text

"""A lens set into an opening: what it is made from, its seat, how it looks with the lamp behind it."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox

from gwiazda.core.assess.light.lenses import behind_mm, dome_mm, face_shown_mm, hole_share, lens_of, width_mm
from gwiazda.core.light.lens import focal_mm
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Lens, Opening, Plan
from gwiazda.core.quantities import figure, format_hours, parse_number
from gwiazda.desktop.inspector.cards import Panel, common


class LensCard:
    """For openings that lead outside."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        self.card = panel.card("Lens", "light", "measure")
        made = [("", "none"), *((x.id, x.name) for x in self.document.catalogue.lenses.values())]
        self.made = panel.choice("Lens made from", made, self._take_made)
        self.card.row("Made from", self.made)
        self.lip = self._value(
            "Bearing lip", 0, 10, "lip_mm", "mm left all round when the hole is cut, 1 to 2 as a rule"
        )
        self.dome = self._value("Dome", 0, 20, "dome_mm", "mm that it stands out; 0 as such lenses usually come out")
        self.card.row("Lip", self.lip)
        self.card.row("Dome", self.dome)
        self.backed = QCheckBox("silver still on its back")
        self.backed.setToolTip(
            "It is scraped off with a blade's edge before the lens is set; no light comes through until then"
        )
        self.backed.clicked.connect(lambda on: self._set("Scrape the silver", backed=bool(on)))
        self.card.row("", self.backed)
        self.words = self.card.consequence()

    def _value(self, name: str, low: float, high: float, field: str, hint: str):  # type: ignore[no-untyped-def]
        return self.panel.value(
            name, lambda t: parse_number(t, name, low, high, "mm"), lambda v: self._set(f"Change the {name.lower()}", **{field: v}), hint
        )  # fmt: skip

    def _show_rows(self, on: bool) -> None:
        """The rows below the first: only where there is a lens."""
        grid = self.card.grid
        for row in range(2, grid.rowCount()):
            for column in (0, 1):
                item = grid.itemAtPosition(row, column)
                if item is not None and item.widget() is not None:
                    item.widget().setVisible(on)  # type: ignore[union-attr]

    def _openings(self) -> list[Opening]:
        return [i for i in self.document.selected_items() if isinstance(i, Opening)]

    def _take_made(self, made: str) -> None:
        ids = [o.id for o in self._openings()]
        if not made:
            self.document.edit("No lens", lambda plan: edits.set_fields(plan, ids, lens=None))
            return
        self._set("Change the lens", made=made)

    def _set(self, what: str, **fields: object) -> None:
        def change(plan: Plan) -> Plan:
            for o in self._openings():
                room = min(o.width_mm, o.height_mm)
                lens = o.lens if o.lens is not None else Lens(lip_mm=min(1.0, round(room / 5, 2)))
                if fields.get("made") == "lamp":
                    fields["lip_mm"] = 0.0
                plan = edits.set_fields(plan, [o.id], lens=edits.copy_checked(lens, **fields))
            return plan

        self.document.edit(what, change)

    def refresh(self, openings: list[Opening]) -> None:
        lenses = [o.lens for o in openings]
        self.card.setVisible(all(not o.into and o.hole for o in openings))
        made = common([x.made if x is not None else "" for x in lenses])
        self.made.show_value(str(made) if made is not None else "several")
        has = all(x is not None for x in lenses)
        self._show_rows(has)
        first, lens = openings[0], openings[0].lens
        if lens is None or not has:
            self.lip.show_value("")
            self.dome.show_value("")
            self.backed.setChecked(False)
            self.words.setText("")
            return
        lip, dome = common([x.lip_mm for x in lenses if x]), common([x.dome_mm for x in lenses if x])
        self.lip.show_value(f"{lip:g}" if lip is not None else "")
        self.dome.show_value(f"{dome:g}" if dome is not None else "")
        self.backed.setChecked(any(x.backed for x in lenses if x))
        self.words.setText(self._words(first))

    def _words(self, o: Opening) -> str:
        catalogue, plan = self.document.catalogue, self.panel.plan
        part = lens_of(catalogue, o)
        if part is None:
            return ""
        wide, high = width_mm(o), dome_mm(o, part)
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
                f" A dome of {high:.1f} mm has its focus {focal:.1f} mm behind; {near.id}, {behind_mm(o, near):.1f} mm behind, "
                f"shows as a spot of <b>{figure(spot, 2)} mm</b> where it is in line."
            )
        return text

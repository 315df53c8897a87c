"""Panel for sections."""

from __future__ import annotations

from gwiazda.core.parts.catalogue import glazings, linings
from gwiazda.core.plan import edits
from gwiazda.core.plan.models import Plan, Section, Wanted
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.inspector.reading import LOOKS, read_mm, read_size


class SectionPanel(Panel):
    """A section: inner box, lining, glazing and the look of all its lamps."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Inner box")
        self.name = self.value("Name", lambda t: t.strip()[:100], lambda v: self._set("Rename", name=v))
        card.row("Name", self.name)
        self.sizes = [
            self.value(
                f"{w} in mm",
                read_size,
                lambda v, i=i: self._take_size(i, v),
                f"inner {w}, from the callipers",
            )
            for i, w in enumerate(("length", "breadth", "height"))
        ]
        card.row("l b h, mm", *self.sizes)
        self.corner = [
            self.value(f"{a} of the lowest corner", read_mm, lambda v, i=i: self._take_corner(i, v))
            for i, a in enumerate("xyz")
        ]
        card.row("Corner", *self.corner)
        self.wall = self.value(
            "Wall thickness", read_size, lambda v: self._set("Change wall", wall_mm=v), "1.2 mm or 1/16 in"
        )
        card.row("Wall, mm", self.wall)
        inside = self.card("Inside")
        self.lining = self.choice(
            "Lining",
            [(g.id, f"{g.name}, {g.reflectance * 100:.0f} % back") for g in linings().values()],
            lambda v: self._set("Change lining", lining=v),
        )
        inside.row("Lining", self.lining)
        self.glazing = self.choice(
            "Glazing",
            [(g.id, f"{g.name}, {g.transmittance * 100:.0f} %") for g in glazings().values()],
            lambda v: self._set("Change glazing", glazing=v),
        )
        inside.row("Glazing", self.glazing)
        self.look = self.choice("Look of all its lamps", LOOKS, self._take_look)
        inside.row("Look", self.look)
        self.facts = inside.consequence()

    def section(self) -> Section | None:
        return next((i for i in self.document.selected_items() if isinstance(i, Section)), None)

    def _set(self, what: str, **fields: object) -> None:
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def _take_size(self, axis: int, value: object) -> None:
        self._take_box(axis, size=float(value))  # type: ignore[arg-type]

    def _take_corner(self, axis: int, value: object) -> None:
        self._take_box(axis, corner=float(value))  # type: ignore[arg-type]

    def _take_box(self, axis: int, size: float | None = None, corner: float | None = None) -> None:
        section = self.section()
        if section is None:
            return
        plain = section.outlines == edits.outline_from_box(section).outlines
        sizes, at = list(section.box.size), list(section.box.at)
        if size is not None:
            # The middle stays where it is.
            at[axis] += (sizes[axis] - size) / 2
            sizes[axis] = size
        if corner is not None:
            at[axis] = corner

        def change(plan: Plan) -> Plan:
            fresh = edits.revise(section, box=edits.revise(section.box, at=tuple(at), size=tuple(sizes)))
            # Outlines that are no more than the box follow it; traced ones stay.
            return edits.replace(plan, {section.id: edits.outline_from_box(fresh) if plain else fresh})

        self.document.edit("Change inner box", change)

    def _take_look(self, value: str) -> None:
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit(
            "Change look", lambda plan: edits.set_wanted(plan, ids, Wanted.model_validate({"look": value}))
        )

    def refresh(self) -> None:
        section = self.section()
        if section is None:
            return
        state = self.found.sections.get(section.id)
        self.heading.setText(section.name)
        x, y, z = section.box.size
        count = sum(o.section == section.id for o in self.plan.openings)
        self.about.setText(
            f"box {x:.4g} × {y:.4g} × {z:.4g} mm, {count} openings" + (f", {state.lit} lit" if state else "")
        )
        self.name.show_value(section.name)
        for field, value in zip(self.sizes, section.box.size, strict=True):
            field.show_value(f"{value:g}")
        for field, value in zip(self.corner, section.box.at, strict=True):
            field.show_value(f"{value:g}")
        self.wall.show_value(f"{section.wall_mm:g}")
        self.lining.show_value(section.lining)
        self.glazing.show_value(section.glazing)
        inside = [
            p for p in self.plan.lamps if (s := self.found.lamps.get(p.id)) is not None and s.section == section.id
        ]
        self.look.setEnabled(bool(inside))
        self.look.show_value(str(common([p.wanted.look for p in inside]) or ""))
        if state is None or not inside:
            self.facts.setText("No lamp inside yet: press L and click in it.")
        else:
            even = (
                f" Darkest window by estimate {state.evenness:.2f} of the mean." if state.evenness is not None else ""
            )
            self.facts.setText(
                f"<b>{state.mean_cd_m2:.3g} cd/m²</b> of {state.wanted_cd_m2:.3g} wanted, from {state.lamps} lamps giving "
                f"{state.flux_lm:.3g} lm; walls throw {state.reflectance * 100:.1f} % back.{even}"
            )

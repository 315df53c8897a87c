"""Panel for a fitting: a mast, a crane, a rail; how thick it is, where across the model it stands, what on."""

from __future__ import annotations

from gwiazda.core.assess.fitted import stands_before, words_of
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Fitting
from gwiazda.core.quantities import counted, parse_kit_length_mm
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.inspector.reading import read_mm


class FittingPanel(Panel):
    """One or several fittings."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Fitting", "measure", "light")
        self.name = self.value("Name", lambda t: t.strip()[:100], lambda v: self._set("Name the fitting", name=v))
        card.row("Name", self.name)
        self.thick = self.value(
            "Thick, mm", lambda t: parse_kit_length_mm(t, self.plan.kit.scale, "Thickness"), lambda v: self._set("Change its thickness", thick_mm=v),
            "as seen from the side it wasn't drawn from",
        )  # fmt: skip
        card.row("Thick, mm", self.thick)
        self.stands = self.choice("Stands on", [("", "nothing")], lambda v: self._set("Stand it elsewhere", section=v))
        self.stands.setToolTip("What it stands on takes it along when it is moved, copied or deleted")
        card.row("Stands on", self.stands)
        self.words = card.consequence()
        place = self.card("Place", "measure", "light")
        self.place = [
            self.value(
                f"{a} in mm",
                read_mm,
                lambda v, i=i: self.take_axis(self.fittings(), i, v),
                "mm on the model: its middle",
            )
            for i, a in enumerate("xyz")
        ]
        place.row("x y z, mm", *self.place)

    def fittings(self) -> list[Fitting]:
        return [i for i in self.document.selected_items() if isinstance(i, Fitting)]

    def _set(self, what: str, **fields: object) -> None:
        ids = [f.id for f in self.fittings()]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def refresh(self) -> None:
        here = self.fittings()
        if not here:
            return
        first, plan = here[0], self.plan
        self.heading.setText((first.name or "Fitting") if len(here) == 1 else counted(len(here), "fitting"))
        self.about.setText("solid, with no room inside; it throws a shadow and is seen in the round")
        self.name.show_value(str(common([f.name for f in here]) or ""))
        thick, home = common([f.thick_mm for f in here]), common([f.section for f in here])
        self.thick.show_value(f"{thick:g}" if thick is not None else "")
        self.stands.set_choices([("", "nothing"), *((s.id, s.name) for s in plan.sections)])
        self.stands.show_value(str(home) if home is not None else "several")
        for axis, field in enumerate(self.place):
            at = common([f.at[axis] for f in here])
            field.show_value(f"{at:g}" if at is not None else "")
        lines = [words_of(plan, first) + "."] if len(here) == 1 else []
        if len(here) == 1:
            before = stands_before(plan, first)
            if before:
                lines.append(f"It stands before {counted(len(before), 'opening')}, seen from {first.side}.")
        self.words.setText("<br>".join(lines))

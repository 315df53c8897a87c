"""Panel for a fitting: a mast, a crane, a rail; how thick it is, where across the model it stands, what on."""

from __future__ import annotations

from gwiazda.core.assess.fitted import stands_before, words_of
from gwiazda.core.plan.model import Fitting
from gwiazda.core.quantities import counted, parse_kit_length_mm
from gwiazda.desktop.inspector.cards import common
from gwiazda.desktop.inspector.items_panel import ItemsPanel


class FittingPanel(ItemsPanel[Fitting]):
    """One or several fittings."""

    kind = Fitting

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Fitting", "measure", "light")
        self.name = self.value(
            "Name", lambda t: t.strip()[:100], lambda v: self._set("Name the fitting", name=v), "mast, crane, rail"
        )
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
        self.place_card("measure", "light")

    def refresh(self) -> None:
        here = self.items()
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
        self.show_place(here)
        lines = [words_of(plan, first) + "."] if len(here) == 1 else []
        if len(here) == 1:
            before = stands_before(plan, first)
            if before:
                lines.append(f"It stands before {counted(len(before), 'opening')}, seen from {first.side}.")
        self.words.setText("<br>".join(lines))

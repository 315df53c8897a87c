"""A pane of a clear shell: what is done behind it, how far that reaches, and what still comes round it in the wall."""

from __future__ import annotations

from gwiazda.core.assess.light.dark import dark_panes
from gwiazda.core.assess.light.shell import is_shell
from gwiazda.core.light.wall import REACH
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Opening
from gwiazda.core.quantities import figure, parse_number
from gwiazda.desktop.inspector.cards import Panel, common


class ShellCard:
    """Shown for openings in clear shells alone."""

    def __init__(self, panel: Panel, change) -> None:  # type: ignore[no-untyped-def]
        self.panel = panel
        self.card = panel.card("In the clear wall", "block", "measure")
        self.closed = panel.choice(
            "Made dark", [("inside", "black behind it"), ("outside", "painted over outside")],
            lambda v: change("Make it dark otherwise", closed=v),
        )  # fmt: skip
        self.card.row("Dark by", self.closed)
        self.reach = panel.value(
            "How far it reaches past the pane", lambda t: parse_number(t, "Reach", -5, 20, "mm"),
            lambda v: change("Change how far it reaches", reach_mm=v),
            "mm past the pane's edge: the black of a dark one, the hole in the inner paint of a lit one",
        )  # fmt: skip
        self.card.row("Overlap", self.reach)
        self.words = self.card.consequence()

    def refresh(self, openings: list[Opening]) -> None:
        plan, assessment = self.panel.plan, self.panel.assessment
        sections = {o.section: section_of(plan, o.section) for o in openings}
        shell = all(is_shell(assessment.catalogue, s, plan.kit.plastic) for s in sections.values())
        self.card.setVisible(shell)
        if not shell:
            return
        self.closed.show_value(str(common([o.closed for o in openings]) or "several"))
        reach = common([o.reach_mm for o in openings])
        self.reach.show_value(f"{reach:g}" if isinstance(reach, float) else "")
        wall = max(s.wall_mm for s in sections.values())
        dark = [o for o in openings if o.lit == 0]
        needed = f"In a wall of {wall:g} mm light reaches {REACH * wall:.1f} mm sideways."
        if not dark:
            self.words.setText(needed)
            return
        times = dark_panes(assessment.catalogue, plan, assessment.openings)
        worst = max(times.get(o.id, 0.0) for o in dark)
        shows = f"{figure(worst, 2)} × what the eye can pick out" if worst >= 1.0 else "nothing that shows"
        self.words.setText(f"{needed} Round what is behind {'it' if len(dark) == 1 else 'them'} comes <b>{shows}</b>.")

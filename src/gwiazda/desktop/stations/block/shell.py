"""A pane of a clear shell: what is done behind it, how far that reaches, and what still comes round it in the wall."""

from __future__ import annotations

from gwiazda.core.assess.optics.shell import is_shell
from gwiazda.core.assess.sight.dark import dark_panes
from gwiazda.core.light.wall import REACH
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Opening
from gwiazda.core.quantities import figure
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, millimetres
from gwiazda.desktop.panels.panel import PanelCard

DARK_BY = (("inside", "black behind it"), ("outside", "painted over outside"))


class ShellCard(PanelCard):
    """Shown for openings in clear shells alone."""

    title = "In the clear wall"
    model = Opening
    fields = (
        Field("closed", "Dark by", Choice(DARK_BY), "How a pane that is to stay dark is closed", "Make it dark otherwise", name="Made dark"),
        Field(
            "reach_mm", "Overlap", millimetres(), "Past the pane’s edge: the black of a dark one, the hole in the inner paint of a lit one",
            "Change how far it reaches", name="How far it reaches past the pane",
        ),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def refresh(self) -> None:
        plan, assessment = self.plan, self.panel.assessment
        openings: list[Opening] = self.items()
        sections = {o.section: section_of(plan, o.section) for o in openings}
        shell = all(is_shell(assessment.catalogue, s, plan.kit.material) for s in sections.values())
        self.card.setVisible(shell)
        if not shell:
            return
        self.form.show()
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

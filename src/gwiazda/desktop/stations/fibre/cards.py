"""Cards of the Fibre station: grouping, the lists for the bench, and how a bundle is held."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy

from gwiazda.core.assess.assembly.holes import holes_of
from gwiazda.core.assess.fibres import sharing
from gwiazda.core.assess.fibres.lists import bought_of, cuts_of
from gwiazda.core.fibre.grouping import Grouping
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import bundle_table
from gwiazda.core.plan.model import Bundle, Dot, Lamp, Plan
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag
from gwiazda.desktop.panels.panel import PanelCard

PLAIN = Bundle(id="bundle", lamp="lamp")
FLAT = ("flat-5-warm-white", "flat-5-cool-white", "flat-3-warm-white", "flat-3-cool-white", "flat-5-red", "flat-5-green", "flat-5-amber", "flat-3-blue")  # fmt: skip


class GroupingCard(PanelCard):
    """All dots onto the lamps there are, off the interface thread: a thousand take a moment."""

    title = "Dots onto lamps"

    def build(self) -> None:
        panel = self.panel
        self.words = self.card.consequence()
        row = QHBoxLayout()
        self.group = QPushButton("Group the dots")
        self.group.setToolTip("Least fibre and even brightness; pinned dots stay, groups keep together")
        self.group.clicked.connect(self._group)
        self.more = QPushButton("One more lamp")
        self.more.setToolTip("A flat lamp for the dots that are on none, behind their middle")
        self.more.clicked.connect(self._more)
        for button in (self.group, self.more):
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            row.addWidget(button)
        self.card.outer.addLayout(row)
        self.part = panel.choice(
            "Lamp for fibres",
            [(i, self.document.catalogue.lamps[i].name) for i in FLAT if i in self.document.catalogue.lamps],
            lambda v: None,
        )
        self.card.row("Lamp", self.part)

    def _group(self) -> None:
        plan, catalogue = self.document.plan, self.document.catalogue
        if not plan.dots or not sharing.fed_lamps(catalogue, plan):
            self.document.message_stop(
                "There is no dot yet: I and a click on the skin puts one." if not plan.dots
                else "No lamp feeds fibres yet: take one more lamp, or set a lamp’s mount to “feeds fibres”."
            )  # fmt: skip
            return

        def job() -> tuple[Callable[[Plan], Plan], Grouping]:
            after, grouping = sharing.grouped(catalogue, plan)
            return edits.as_edit(plan, after), grouping

        self.panel.task("grouping").ask(plan, job, self._done, self._late)

    def _late(self) -> None:
        self.document.message.emit("The plan has changed meanwhile: group the dots again.", "info")

    def _done(self, result: tuple[Callable[[Plan], Plan], Grouping]) -> None:
        change, grouping = result
        left = int((grouping.lamp < 0).sum())
        if self.document.edit("Group the dots", change):
            words = (
                f"{len(grouping.lamp) - left} dots on their lamps, {grouping.fibre_mm / 1000.0:.2f} m as the crow flies"
            )
            self.document.message.emit(words + (f"; {left} find no room or no colour." if left else "."), "info")

    def _more(self) -> None:
        ids = [d.id for d in self.document.plan.dots if not d.lamp]
        if not ids:
            self.document.message.emit("Every dot is on a lamp.", "info")
            return
        part = str(self.part.currentData())
        self.document.edit("One more lamp for fibres", lambda plan: edits.fibre_lamp(plan, ids, part)[0])

    def refresh(self) -> None:
        plan, assessment = self.panel.plan, self.panel.assessment
        free = sum(1 for d in plan.dots if not d.lamp)
        lamps = len(sharing.fed_lamps(self.document.catalogue, plan))
        if not plan.dots:
            self.words.setText(
                "I puts a dot on the skin, a drag puts a row; Y drags a panel whose dots come from its picture."
            )
        else:
            length = sum(t.length_mm for t in assessment.tips.values()) / 1000.0
            self.words.setText(
                f"{counted(len(plan.dots), 'dot')}, {free} of them on no lamp; {counted(lamps, 'lamp')} for fibres. "
                f"<b>{figure(length, 3)} m</b> of fibre along its ways."
            )
        self.group.setEnabled(bool(plan.dots))
        self.more.setEnabled(free > 0)


class ListsCard(PanelCard):
    """What to cut, drill and buy, in short; the lists go out as tables and sheets."""

    title = "To cut, drill and buy"

    @classmethod
    def speaks(cls, plan: Plan) -> bool:
        return bool(plan.dots)

    def build(self) -> None:
        self.words = self.card.consequence()

    def refresh(self) -> None:
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        self.card.setVisible(bool(assessment.tips))
        if not assessment.tips:
            return
        names = self.document.catalogue.fibres
        lines = []
        cuts = cuts_of(plan, assessment)
        pieces = sum(c.pieces for c in cuts)
        longest = max(c.length_mm for c in cuts)
        lines.append(
            f"<b>Cut</b> {counted(pieces, 'piece')} in {counted(len(cuts), 'length')}, the longest {longest:g} mm."
        )
        holes = holes_of(plan, self.document.catalogue)
        drills = [f"{h.pieces} × {h.drill.metric_mm:g} mm" for h in holes if not h.given]
        given = sum(h.pieces for h in holes if h.given)
        lines.append(
            f"<b>Drill</b> {', '.join(drills) or 'nothing'}{f'; {given} come with their part' if given else ''}."
        )
        lines.append("<b>Buy</b> " + ", ".join(f"{b.metres} m of {names[b.fibre].diameter_mm:g} mm" for b in bought_of(plan, assessment)) + ".")  # fmt: skip
        lines.append("Take out → Fibres (CSV) has them all, with the map.")
        self.words.setText("<br>".join(lines))


class BundleCard(PanelCard):
    """How the fibres on the lamp at hand are held."""

    title = "Bundle on its lamp"
    fields = (
        Field("joined", "Fixed to lamp", Choice((("butted", "butted to its face"), ("sleeve", "in a sleeve, with a gap"))), "How the bundle meets its lamp",
              "Hold the bundle", name="Against the lamp"),
        Field("ends", "Ends", Choice((("cut", "cut square"), ("polished", "polished"))), "How the fibres’ ends at the lamp are finished", "Finish the ends"),
        Field("fed", "Threading", Choice((("loose then bundled", "one by one, then bundled"), ("bundled then trimmed", "bundled, then trimmed"))),
              "What is done first", "Change the order of work", name="Order of work"),
        Field("overheated", "", Flag("Shrunk too hot"), "Half of the light is gone where a sleeve was overheated", "Shrunk too hot"),
    )  # fmt: skip

    def build(self) -> None:
        self.split = self.button("Split it", "Half of its dots onto a second lamp like it", self._split)
        self.words = self.card.consequence()

    def items(self) -> list[Any]:
        return [bundle_table(self.plan.bundles).get(self.lamp_id(), PLAIN)]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_bundle(plan, self.lamp_id(), **fields)

    def lamp_id(self) -> str:
        """The lamp at hand: picked itself, or that of the first dot picked."""
        for item in self.document.selected_items():
            if isinstance(item, Dot) and item.lamp:
                return item.lamp
            if isinstance(item, Lamp):
                return item.id
        return ""

    def _split(self) -> None:
        lamp, catalogue = self.lamp_id(), self.document.catalogue
        self.document.edit("Split the bundle", lambda plan: sharing.split(catalogue, plan, lamp))

    def refresh(self) -> None:
        lamp = self.lamp_id()
        state = self.panel.assessment.bundles.get(lamp)
        self.card.setVisible(state is not None)
        if state is None:
            return
        self.form.show()
        bundle = self.first
        self.split.setEnabled(len(state.dots) > 1)
        order = (
            "Feed each from the front, pull it flush, set it from behind, then bundle and cut square."
            if bundle.fed == "loose then bundled"
            else "Bundle and polish the lamp’s end first, fan the fibres out to their holes, trim them outside."
        )
        self.words.setText(
            f"{counted(len(state.dots), 'fibre')} make {state.bundle_mm:.2f} mm on {state.face_mm:g} mm; "
            f"<b>{state.lit * 100:.1f} %</b> of the beam goes into them. {order} Canopy or white glue, slow epoxy or UV resin: "
            "cyanoacrylate crazes stressed fibre, solvent cement eats it."
        )

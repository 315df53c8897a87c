"""A photo of the lit model read: where it is laid on, what it says, into the log with it."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS
from gwiazda.core.plan.model import Laid, LogEntry, Plan, copy_unchecked
from gwiazda.core.quantities import figure, parse_number
from gwiazda.core.workbench.learning.evidence import told_of
from gwiazda.core.workbench.photo.camera import simulated
from gwiazda.core.workbench.photo.photomarks import laid_on
from gwiazda.core.workbench.photo.photos import jpeg_of, parse_exposure, photo_for_log
from gwiazda.core.workbench.photo.photowords import LOCK, by_section, summary
from gwiazda.desktop.panels.panel import PanelCard
from gwiazda.desktop.stations.bench.session import session_of
from gwiazda.desktop.stations.build.days import now_of

SHOWS = [("model", "The lit model"), ("card", "Printed grey card")]
CARD_AT = ((0.1, 0.5), (0.9, 0.5))  # where its first and last patch are looked for to begin with
SIDES = [(s, s.capitalize()) for s in NORMALS]


class PhotoCard(PanelCard):
    """Which photo is read, from which side, by which grey; its summary."""

    title = "Light by a photo"

    @classmethod
    def speaks(cls, plan: Plan) -> bool:
        return bool(plan.sections)

    def build(self) -> None:
        panel = self.panel
        self.session = session_of(self.document)
        card = self.card
        self.words = card.consequence()
        self.which = panel.choice("Photo that is read", [("", "none")], self.session.read)
        card.row("Photo", self.which)
        self.side = panel.choice("Side it was taken of", SIDES, self._side)
        self.side.setToolTip("The view it is laid on; its marks begin anew")
        self.shows = panel.choice("What the photo shows", SHOWS, self._shows)
        self.shows.setToolTip("The lit model, or the printed grey card that tells this camera’s curve")
        self.exposed = panel.value(
            "Exposure of the photo", parse_exposure, self._expose,
            "Shutter time such as 1/15, at the same aperture and ISO: of two photos of one side the camera’s curve is told",
        )  # fmt: skip
        self.lux = panel.value(
            "Light on the grey patch",
            lambda t: None if not t.strip() else parse_number(t, "Light on the patch", 0.001, 1e5, "lx"),
            lambda v: self._lay(grey_lux=v),
            "lx that fell on a patch of known grey in the photo; empty: exposure fitted to the prediction",
        )
        self.grey = panel.value(
            "Reflectance of the grey patch",
            lambda t: parse_number(t, "Reflectance", 0.01, 1.0),
            lambda v: self._lay(grey_reflectance=v),
            "0.18 for a grey card",
        )
        card.row("Shows", self.shows)
        card.row("Side", self.side)
        card.row("Exposure", self.exposed)
        card.row("Grey patch", self.grey)
        card.row("Light on it", self.lux)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.keep = QPushButton("Log it")
        self.keep.setToolTip(
            "Its summary beside the photo, each leak that wasn’t predicted as a line, and what a grey patch measured"
        )
        self.keep.clicked.connect(self._keep)
        self.done = QPushButton("Put away")
        self.done.clicked.connect(lambda: self.session.read(""))
        self.trial = QPushButton("Simulated…")
        self.trial.setAccessibleName("Simulated photo")
        self.trial.setToolTip(
            "As a camera would see this plan from the view shown, with a leak or two that it doesn’t know of: to try it with"
        )
        self.trial.clicked.connect(self._simulate)
        for button, room in ((self.keep, 8), (self.done, 11), (self.trial, 12)):
            button.setSizePolicy(button.sizePolicy().Policy.Ignored, button.sizePolicy().Policy.Fixed)
            row.addWidget(button, room)
        card.outer.addLayout(row)
        self._choices: list[tuple[str, str]] = []
        panel.follow(self.session.changed, self.refresh)

    def _shows(self, what: str) -> None:
        """The lit model, laid on the view shown, or the grey card."""
        entry, document = self.session.photo_entry, self.document
        if entry is None:
            return
        side, assessment = document.shown_side, document.assessment

        def change(plan: Plan) -> Plan:
            laid = Laid(steps=CARD_AT) if what == "card" else laid_on(plan, assessment, side)
            return edits.lay_photo(plan, entry.id, laid)

        document.edit("What the photo shows", change)

    def _expose(self, value: float | None) -> None:
        entry = self.session.photo_entry
        if entry is not None:
            self.document.edit("Exposure of the photo", lambda plan: edits.set_exposure(plan, entry.id, value))

    def _lay(self, **fields: object) -> None:
        entry = self.session.photo_entry
        if entry is not None and entry.laid is not None:
            laid = edits.copy_checked(entry.laid, **fields)
            self.document.edit("Photo’s grey patch", lambda plan: edits.lay_photo(plan, entry.id, laid))

    def _side(self, side: str) -> None:
        entry, document = self.session.photo_entry, self.document
        if entry is not None:
            document.edit(
                "Lay the photo on the view",
                lambda plan: edits.lay_photo(plan, entry.id, laid_on(plan, document.assessment, side)),  # type: ignore[arg-type]
            )

    def _simulate(self) -> None:
        document = self.document
        plan, assessment, side, seed = (
            document.assessed_plan,
            document.assessment,
            document.shown_side,
            document.clock().microsecond,
        )

        def job() -> tuple[bytes | str, Laid | None]:
            try:
                shot = simulated(plan, assessment, side, seed, leaks=2)
            except GwiazdaError as error:
                return str(error), None
            return jpeg_of(shot.code), shot.laid

        def late() -> None:
            document.message.emit("The plan has changed meanwhile: take the simulated photo again.", "info")

        self.panel.task("simulated").ask(plan, job, lambda made: self._take(*made), late)

    def _take(self, data: bytes | str, laid: Laid | None) -> None:
        document = self.document
        if isinstance(data, str):
            document.message_stop(data)
            return
        name, data = photo_for_log("simulated.jpg", data)
        kept = document.add_picture(name, data)
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            plan, new_id = edits.add_entry(
                plan, "note", "Simulated photo of this plan", photo=kept, at=now_of(document), laid=laid
            )
            made[:] = [new_id]
            return plan

        if document.edit("Simulated photo", change):
            self.session.read(made[0])

    def _keep(self) -> None:
        entry, shot, document = self.session.photo_entry, self.session.shot, self.document
        curve = self.session.card
        if entry is not None and curve is not None:
            document.edit("Use the camera’s curve", lambda plan: edits.use_curve(plan, tuple(curve)))  # type: ignore[arg-type]
            return
        if entry is None or shot is None:
            return
        text, at = summary(document.assessed_plan, shot), now_of(document)
        new = [x for x in shot.leaks if not x.predicted]
        sections = {o.id: o.section for o in document.plan.openings}

        def change(plan: Plan) -> Plan:
            head = entry.text.split(" | ")[0]
            plan = edits.reword(plan, entry.id, f"{head} | {text}"[:2000])
            for x in new[:12]:
                where = f"at {x.at[0]:.0f}, {x.at[1]:.0f} mm seen from {shot.side}"
                words = f"{figure(x.peak_cd_m2)} cd/m² {where}, {x.size_mm[0]:.1f} × {x.size_mm[1]:.1f} mm, by photo {entry.photo}"
                section = x.section if any(s.id == x.section for s in plan.sections) else ""
                plan, _ = edits.add_entry(plan, "leak", words, section=section, at=at)
            plan = edits.photo_told(plan, entry.id, told_of(document.assessment, shot))
            for section, middle in by_section(plan, shot).items() if shot.absolute else ():
                mine = [p for p in shot.told if sections.get(p.id) == section]
                typical = min(mine, key=lambda p: abs(p.ratio - middle))
                plan, _ = edits.add_entry(
                    plan, "reading", what="cd_m2", place=typical.id, value=typical.read_cd_m2, at=at, section=section
                )
            return plan

        document.edit("Photo’s reading into the log", change)

    def _entries(self) -> list[LogEntry]:
        return [e for e in reversed(self.document.plan.log) if e.photo in self.document.pictures]

    def refresh(self) -> None:
        choices = [
            ("", "none"),
            *((e.id, f"{e.at[5:10]} {e.text.split(' | ')[0] or e.photo}"[:40]) for e in self._entries()),
        ]
        if choices != self._choices:
            self._choices = choices
            self.which.set_choices(choices)
        entry, session = self.session.photo_entry, self.session
        self.which.show_value(session.photo if entry is not None else "")
        on = entry is not None and entry.laid is not None
        model = entry is not None and entry.laid is not None and entry.laid.steps is None
        for widget in (self.side, self.grey, self.lux, self.exposed):
            widget.setEnabled(model)
        for button in (self.keep, self.done, self.shows):
            button.setEnabled(on)
        self.keep.setText("Log it" if model or not on else "Use it")
        self.trial.setEnabled(not on)
        if entry is None or entry.laid is None:
            self.words.setText(LOCK)
            return
        self.shows.show_value("model" if model else "card")
        self.exposed.show_value("" if entry.exposure is None else figure(entry.exposure))
        self.side.show_value(entry.laid.side)
        self.grey.show_value(figure(entry.laid.grey_reflectance))
        self.lux.show_value("" if entry.laid.grey_lux is None else figure(entry.laid.grey_lux))
        self.keep.setEnabled((session.shot is not None or session.card is not None) and not session.shot_fault)
        if session.shot_fault:
            self.words.setText(session.shot_fault)
        elif session.card is not None:
            self.words.setText("This camera’s curve is told. Use it, and all photos of the model are read by it.")
        elif session.shot is None:
            self.words.setText("Drag the marks in the drawer onto what they name.")
        else:
            self.words.setText(summary(self.document.assessed_plan, session.shot))


def relaid(laid: Laid, number: int, at: tuple[float, float]) -> Laid:
    """A mark (or, past the last, the grey patch; of a grey card its first or last patch) moved to another place of the photo."""
    spot = (min(max(at[0], 0.0), 1.0), min(max(at[1], 0.0), 1.0))
    if laid.steps is not None:
        return copy_unchecked(laid, steps=(spot, laid.steps[1]) if number == 0 else (laid.steps[0], spot))
    if number >= len(laid.marks):
        return copy_unchecked(laid, grey=spot)
    return copy_unchecked(
        laid, marks=tuple(copy_unchecked(m, at=spot) if k == number else m for k, m in enumerate(laid.marks))
    )

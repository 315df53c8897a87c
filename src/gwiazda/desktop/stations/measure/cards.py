"""Cards of the Measure station with nothing picked: views and drawings, sections from shapes."""

from __future__ import annotations

from typing import Literal

from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.model import Plan, View
from gwiazda.core.plan.outline import shapes
from gwiazda.core.quantities import figure
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, fixed, size
from gwiazda.desktop.panels.panel import PanelCard
from gwiazda.desktop.widgets.slider import slider

SIDES = (
    ("", "add a view…"), ("port", "port side"), ("starboard", "starboard side"), ("top", "from above"), ("bottom", "from below"),
    ("bow", "from ahead"), ("stern", "from astern"),
)  # fmt: skip


SIZES = ("length", "breadth", "height")


class ViewCard(PanelCard):
    """The views of the kit, and how its drawing lies behind the one shown."""

    title = "Views and drawing"
    fields = (
        Field("view", "Add a view", Choice(SIDES), "From which side the kit is looked at; a drawing can lie behind each",
              takes=lambda card, side: card.add_view(side)),
    )  # fmt: skip

    def build(self) -> None:
        card = self.card
        self.fade = slider(10, "Fade of the drawing", self._take_fade)
        card.row("Fade", self.fade)
        self.view_words = card.consequence()

    def add_view(self, side: Side | Literal[""]) -> None:
        """A view from one more side."""
        if side:
            self.document.edit("Add a view", lambda plan: views.add_view(plan, side)[0])
            self.form.chosen("view").setCurrentIndex(0)

    def _take_fade(self, step: int) -> None:
        view = self._view()
        if view is not None and view.drawing is not None:
            drawing = edits.copy_checked(view.drawing, fade=step / 10)
            self.document.edit("Fade the drawing", lambda plan: views.set_view(plan, view.id, drawing=drawing))

    def _view(self) -> View | None:
        return next((v for v in self.plan.views if v.side == self.document.shown_side), None)

    def say(self) -> None:
        view = self._view()
        drawing = view.drawing if view else None
        blocked = self.fade.blockSignals(True)
        self.fade.setEnabled(drawing is not None)
        self.fade.setValue(round(drawing.fade * 10) if drawing else 0)
        self.fade.blockSignals(blocked)
        if drawing is None:
            self.view_words.setText(
                "No drawing behind this view: drop a PNG, JPEG, SVG or PDF on the plate, or paste one."
            )
        else:
            self.view_words.setText(
                f"{drawing.picture}: 1 unit is {figure(drawing.mm_per_unit, 4)} mm, turned by {drawing.rotation_deg:.1f}°. "
                "K calibrates, H levels."
            )


class ShapeCard(PanelCard):
    """A section from a plain shape, by its outer sizes."""

    title = "A section from a shape"
    fields = (
        Field("shape", "Shape", Choice(fixed(*shapes.SHAPES)), "What it is like outside", takes=lambda card, v: None),
        *(
            Field(words, label, size(), f"outer {words}, 3 mm or 1 1/2 in", takes=lambda card, v: None, name=f"Outer {words}")
            for label, words in (("Length", "length"), ("Width", "breadth"), ("Height", "height"))
        ),
    )  # fmt: skip

    def build(self) -> None:
        for path, text in zip(SIZES, ("120 mm", "40 mm", "30 mm"), strict=True):
            self.form.typed(path).setText(text)
        self.button("Add the section", "A section of this shape, above those there are", self._add)

    def _add(self) -> None:
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            length, breadth, height = (self.form.read(path) for path in SIZES)
            shape = str(self.form.chosen("shape").currentData())
            top = max(
                (p[1] for s in plan.sections for o in s.outlines if o.side == "port" for p in o.points), default=0.0
            )
            section = shapes.section_from_shape(plan, shape, length, breadth, height, at=(0.0, 0.0, top))  # type: ignore[arg-type]
            new.append(section.id)
            return edits.add_section(plan, section)

        if self.document.edit("Add a section", change):
            self.document.select(new)

    def refresh(self) -> None:
        """Nothing of it follows the plan: what is typed stays."""

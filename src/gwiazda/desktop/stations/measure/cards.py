"""Cards of the Measure station with nothing picked: views and drawings, sections from shapes."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton

from gwiazda.core.plan import edits, shapes
from gwiazda.core.plan.edits import views
from gwiazda.core.plan.model import Plan, View
from gwiazda.core.quantities import figure
from gwiazda.desktop.inspector.cards import Panel
from gwiazda.desktop.inspector.reading import read_size
from gwiazda.desktop.widgets.slider import slider

SIDES = (
    ("", "add a view…"), ("port", "port side"), ("starboard", "starboard side"), ("top", "from above"),
    ("bow", "from ahead"), ("stern", "from astern"),
)  # fmt: skip


class ViewCard:
    """The views of the kit, and how its drawing lies behind the one shown."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        card = panel.card("Views and drawing", "measure")
        self.more_views = panel.choice("Add a view", SIDES, self._add_view)
        card.row("Views", self.more_views)
        self.fade = slider(10, "Fade of the drawing", self._take_fade)
        card.row("Fade", self.fade)
        self.view_words = card.consequence()

    def _add_view(self, side: str) -> None:
        if side:
            self.document.edit("Add a view", lambda plan: views.add_view(plan, side)[0])  # type: ignore[arg-type]
            self.more_views.setCurrentIndex(0)

    def _take_fade(self, step: int) -> None:
        view = self._view()
        if view is not None and view.drawing is not None:
            drawing = edits.copy_checked(view.drawing, fade=step / 10)
            self.document.edit("Fade the drawing", lambda plan: views.set_view(plan, view.id, drawing=drawing))

    def _view(self) -> View | None:
        return next((v for v in self.panel.plan.views if v.side == self.document.shown_side), None)

    def refresh(self) -> None:
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


class ShapeCard:
    """A section from a plain shape, by its outer sizes."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        card = panel.card("A section from a shape", "measure")
        self.shape = panel.choice("Shape", [(s, s) for s in shapes.SHAPES], lambda v: None)
        card.row("Shape", self.shape)
        self.sizes = [
            panel.value(f"Outer {w}", read_size, lambda v: None, f"outer {w}, 3 mm or 1 1/2 in")
            for w in ("length", "breadth", "height")
        ]
        for field, text in zip(self.sizes, ("120", "40", "30"), strict=True):
            field.setText(text)
        card.row("Length", self.sizes[0])
        card.row("Width", self.sizes[1])
        card.row("Height", self.sizes[2])
        add = QPushButton("Add the section")
        add.clicked.connect(self._add)
        card.outer.addWidget(add)

    def _add(self) -> None:
        new: list[str] = []

        def change(plan: Plan) -> Plan:
            length, breadth, height = (read_size(f.text()) for f in self.sizes)
            shape = str(self.shape.currentData())
            top = max(
                (p[1] for s in plan.sections for o in s.outlines if o.side == "port" for p in o.points), default=0.0
            )
            section = shapes.section_from_shape(plan, shape, length, breadth, height, at=(0.0, 0.0, top))  # type: ignore[arg-type]
            new.append(section.id)
            return edits.add_section(plan, section)

        if self.document.edit("Add a section", change):
            self.document.select(new)

    def refresh(self) -> None:
        """Nothing of it follows the plan."""

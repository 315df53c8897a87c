"""Start from a shape: a card over the plate where a few sizes show the shape, and one click makes the plan, lit and wired."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (  # fmt: skip
    QButtonGroup,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QToolButton,
    QVBoxLayout,
)

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.light.rooms import ROOMS, room_words
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.quantities import format_scale, parse_number, parse_scale
from gwiazda.core.starter.forms import FORMS, LIMITS, NAMES, Form, Sizes
from gwiazda.core.starter.start import Started, shaped, start
from gwiazda.desktop.shell.cards.silhouette import Silhouette
from gwiazda.desktop.tasks import PlanTask
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.fields import ChoiceField
from gwiazda.desktop.widgets.guard import Guarded

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

WIDTH, TALL = 640, 170


def _number(text: str, field: str, whole: bool = False) -> float:
    return parse_number(
        text, f"New from a shape, {NAMES[field]}", *LIMITS[field], "mm" if field == "length_mm" else "", whole
    )


class StarterCard(Guarded, QFrame):
    """Five shapes, five fields, a picture of what it will be. Escape closes it."""

    told = Signal(str)

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window_ = window
        self.setObjectName("card")
        self.setAccessibleName("New from a shape")
        self.form: Form = "ship"
        self.stopped = False
        self._task: PlanTask[Started | str] = PlanTask(window.document, "starter", "The plan", self)
        self.told.connect(self._tell)
        box = QVBoxLayout(self)
        title = QLabel("New from a shape")
        title.setObjectName("cardtitle")
        box.addWidget(title)
        shapes, group = QHBoxLayout(), QButtonGroup(self)
        self.buttons: dict[Form, QToolButton] = {}
        for form, entry in FORMS.items():
            button = QToolButton()
            button.setObjectName("view")
            button.setText(entry.name)
            button.setCheckable(True)
            button.setAccessibleName(entry.name)
            button.clicked.connect(lambda _=False, f=form: self.take_form(f))
            group.addButton(button)
            shapes.addWidget(button)
            self.buttons[form] = button
        shapes.addStretch(1)
        box.addLayout(shapes)
        self.picture = Silhouette("The shape from the side", TALL)
        box.addWidget(self.picture)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        self.fields: dict[str, QLineEdit] = {}
        self.labels: dict[str, QLabel] = {}
        for k, (name, words) in enumerate((("length", "Length, mm"), ("decks", "Decks"), ("windows", "Windows a deck"), ("scale", "Scale"), ("name", "Name"))):  # fmt: skip
            label, field = QLabel(words), QLineEdit()
            label.setObjectName("muted")
            field.setAccessibleName(words)
            field.setMaxLength(100)
            field.textEdited.connect(self.show_shape)
            field.returnPressed.connect(self.make)
            grid.addWidget(label, 0, k)
            grid.addWidget(field, 1, k)
            grid.setColumnStretch(k, 3 if name == "name" else 1)
            self.fields[name], self.labels[name] = field, label
        self._ask_room(grid)
        box.addLayout(grid)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setFixedHeight(scaled(36))
        box.addWidget(self.words)
        row = QHBoxLayout()
        self.make_button = QPushButton("Make it, lit")
        self.make_button.setToolTip(
            "Sections, windows, the fewest lamps and their circuit in one go; all of it can be changed"
        )
        self.make_button.clicked.connect(self.make)
        row.addWidget(self.make_button)
        row.addStretch(1)
        self.close_button = QPushButton("Close")
        self.close_button.setToolTip("Close this card (Esc)")
        self.close_button.clicked.connect(self.leave)
        row.addWidget(self.close_button)
        box.addLayout(row)
        self.hide()
        self.take_form("ship")

    def _ask_room(self, grid: QGridLayout) -> None:
        rooms = [(f"{r.lux:g}", room_words(r)) for r in ROOMS]
        self.room = ChoiceField("Room it is for", rooms, lambda _: self.show_shape())
        self.room.setToolTip("The room it will stand in: how bright its lights are made")
        self.room.show_value(f"{Sizes().lux:g}")
        label = QLabel("Room it is for")
        label.setObjectName("muted")
        grid.addWidget(label, 2, 0, 1, 2)
        grid.addWidget(self.room, 3, 0, 1, 2)

    def open(self) -> None:
        self.show()
        self.raise_()
        self.window_.show_empty()
        self.place()
        self.buttons[self.form].setFocus()
        self.show_shape()

    def place(self) -> None:
        """Over the plate, as wide as it has room."""
        plate = self.window_.plate
        corner = plate.mapTo(self.window_, plate.rect().topLeft())
        self.setFixedWidth(min(scaled(WIDTH), plate.width() - 20))
        self.adjustSize()
        self.move(corner.x() + (plate.width() - self.width()) // 2, corner.y() + 10)

    def leave(self) -> None:
        self.stopped = True
        self.hide()
        self.window_.show_empty()
        self.window_.plate.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)

    # -- sizes -------------------------------------------------------------------------------------------

    def take_form(self, form: Form) -> None:
        """Another shape, with the sizes it begins with."""
        self.form = form
        sizes = FORMS[form].sizes
        self.buttons[form].setChecked(True)
        self.labels["length"].setText("Height, mm" if FORMS[form].words == "height" else "Length, mm")
        for name, text in (("length", f"{sizes.length_mm:g}"), ("decks", str(sizes.decks)), ("windows", str(sizes.windows)), ("scale", format_scale(sizes.scale))):  # fmt: skip
            self.fields[name].setText(text)
        self.fields["name"].setPlaceholderText(FORMS[form].name)
        self.show_shape()

    def sizes(self) -> Sizes:
        """What the fields say; raises GwiazdaError with a sentence."""
        text = {name: field.text() for name, field in self.fields.items()}
        return Sizes(
            self.form, _number(text["length"], "length_mm"), int(_number(text["decks"], "decks", True)),
            int(_number(text["windows"], "windows", True)), parse_scale(text["scale"]), text["name"],
            float(self.room.currentData()),
        )  # fmt: skip

    def show_shape(self) -> None:
        try:
            plan = shaped(self.sizes())[0]
        except GwiazdaError as error:
            self._say(str(error), "stop")
            self.make_button.setEnabled(False)
            return
        self.picture.plan = plan
        self.picture.update()
        self.make_button.setEnabled(True)
        lit = sum(o.lit > 0 for o in plan.openings)
        self._say(f"{len(plan.sections)} sections, {len(plan.openings)} windows, {lit} of them lit.", "muted")

    def _say(self, words: str, kind: str) -> None:
        self.words.setText(words)
        if self.words.objectName() != kind:
            self.words.setObjectName(kind)
            self.words.style().unpolish(self.words)
            self.words.style().polish(self.words)

    # -- making ------------------------------------------------------------------------------------------

    def make(self) -> None:
        """Make the plan, beside the window; it is shown when it is done."""
        if not self.make_button.isEnabled():
            return
        try:
            sizes = self.sizes()
        except GwiazdaError:
            return
        catalogue = self.window_.document.catalogue
        self.stopped = False
        self.make_button.setEnabled(False)

        def progress(words: str) -> bool:
            self.told.emit(words)
            return not self.stopped

        def job() -> Started | str:
            try:
                return start(catalogue, sizes, progress)
            except GwiazdaError as error:
                return str(error)

        late = "The plan that is open has changed meanwhile: make it once more."
        self._task.ask(self.window_.document.plan, job, self._done, lambda: self._end(late, False))

    def _tell(self, words: str) -> None:
        if self.isVisible():
            self._say(f"{words}…", "muted")

    def _done(self, result: Started | str) -> None:
        if isinstance(result, str):
            self._end(result, self.stopped)
            return
        if self.stopped:
            self._end("", True)
            return
        self._end("", True)
        self.hide()
        window = self.window_
        window.files.take_started(PlanFile(result.plan, result.pictures))
        window.plate.setFocus()

    def _end(self, words: str, well: bool) -> None:
        self.make_button.setEnabled(True)
        self._say("" if well else words, "muted" if well else "stop")

    @property
    def idle(self) -> bool:
        return self._task.idle

    def close_workers(self) -> None:
        self.stopped = True
        self._task.close()

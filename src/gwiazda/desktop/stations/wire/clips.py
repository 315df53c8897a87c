"""Two clips on the drawn circuit: a meter between them, or a bench supply on them."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from gwiazda.core.errors import CircuitError
from gwiazda.core.quantities import counted, figure, format_current
from gwiazda.core.workbench.instruments import Clip, MeterReading, SupplyReading, measure, supply_on
from gwiazda.desktop.document import Document


class Clips(QObject):
    """Where the red and the black clip are, which is to be placed next, and what the instrument says."""

    changed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self.red: Clip | None = None
        self.black: Clip | None = None
        self.next = ""  # "red", "black", or nothing to place
        self.supply = False
        self.volts, self.limit_a = 9.0, 0.05
        self.reading: MeterReading | SupplyReading | None = None
        self.trouble = ""
        document.assessed.connect(self.read)
        document.file_changed.connect(self.take_off)

    def begin(self) -> None:
        """Place both clips anew: the next click in the drawing is the red one's."""
        self.red = self.black = self.reading = None
        self.trouble, self.next = "", "red"
        self.changed.emit()

    def take_off(self) -> None:
        self.red = self.black = self.reading = None
        self.trouble = self.next = ""
        self.changed.emit()

    def place(self, clip: Clip) -> None:
        """Put the next clip there."""
        if self.next == "red":
            self.red, self.next = clip, "black"
        elif self.next == "black":
            self.black, self.next = clip, ""
        self.read()

    def set(self, **values: object) -> None:
        """Another instrument, voltage or limit."""
        for name, value in values.items():
            setattr(self, name, value)
        self.read()

    def read(self) -> None:
        """Read the instrument again."""
        self.reading, self.trouble = None, ""
        plan, assessment = self.document.assessed_plan, self.document.assessment
        if self.red is not None and self.black is not None:
            try:
                if self.supply:
                    self.reading = supply_on(plan, assessment, self.red, self.black, self.volts, self.limit_a)
                else:
                    self.reading = measure(plan, assessment, self.red, self.black)
            except CircuitError as error:
                self.trouble = str(error)
        self.changed.emit()

    @property
    def light(self) -> dict[str, float] | None:
        """Light of lamps while the bench supply is on; None while the plan's own source is."""
        return dict(self.reading.light) if isinstance(self.reading, SupplyReading) else None

    @property
    def words(self) -> str:
        """What there is to read, or to do."""
        if self.next:
            return f"Click in the drawing where the {self.next} clip goes: the upper or the lower end of a part."
        if self.trouble:
            return self.trouble
        if isinstance(self.reading, SupplyReading):
            limit = ", held back by its limit" if self.reading.limited else ""
            lit = self.reading.lit
            lights = (
                "nothing lights" if not lit else f"{counted(len(lit), 'lamp')} light" + ("s" if len(lit) == 1 else "")
            )
            return f"<b>{self.reading.volts:.2f} V, {format_current(self.reading.current_a)}</b>{limit}; {lights}."
        if isinstance(self.reading, MeterReading):
            current = self.reading.current_a
            return f"<b>{self.reading.volts:.3f} V</b>" + (
                f", {format_current(abs(current))} through it" if current is not None else ""
            )
        return f"Two clips, a meter or a supply of {figure(self.volts)} V."


def clips_of(document: Document) -> Clips:
    """The clips on a document's circuits."""
    found = document.findChild(Clips)
    return found if found is not None else Clips(document)

"""Cards of the Block station with nothing picked: leaks by how visible, and swatches of one's own."""

from __future__ import annotations

import re

from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout

from gwiazda.core.assess.aims import leak_state, leak_words
from gwiazda.core.assess.optics.leaks import place_name
from gwiazda.core.assess.sight.torch import torch_test, torch_words
from gwiazda.core.colour.swatch import Swatch, SwatchReading, fit_density, simulated_readings
from gwiazda.core.errors import GwiazdaError, QuantityError
from gwiazda.core.quantities import figure
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Number, Quantity, Text
from gwiazda.desktop.panels.panel import PanelCard, button_of, clear, label, side_by_side
from gwiazda.desktop.widgets.offer import OfferButton

MOST_LEAKS = 10


class LeakCard(PanelCard):
    """Leaks, the most visible first; a click goes there."""

    title = "Leaks, the most visible first"

    def build(self) -> None:
        card = self.card
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        card.outer.addLayout(self._rows)
        self._shown: object = None

    def refresh(self) -> None:
        plan, leaks = self.document.assessed_plan, self.panel.assessment.leaks
        shown = (plan, leaks)
        if self._shown is not None and all(a is b for a, b in zip(shown, self._shown, strict=True)):  # type: ignore[call-overload]
            return
        self._shown = shown
        clear(self._rows)
        near = [x for x in leaks if max(x.times, x.safe_times / 10) >= 0.1]
        if not near:
            self._rows.addWidget(label("Nothing comes near to what the eye could pick out.", "muted", wrap=True))
        for leak in near[:MOST_LEAKS]:
            state, verdict = leak_state(leak.times, leak.safe_times), leak_words(leak)
            button = OfferButton(place_name(plan, leak))
            button.show_outcome(f"{figure(leak.times, 2)} ×, {verdict}", state)
            sure = f" 19 times in 20 under {figure(leak.safe_times, 2)} ×." if leak.safe_times else ""
            button.setToolTip(f"{button.text()}, {figure(leak.luminance_cd_m2, 2)} cd/m².{sure} Go there")
            button.clicked.connect(lambda _=False, i=leak.subject: self.document.select([i]))
            self._rows.addWidget(button)
        if len(near) > MOST_LEAKS:
            self._rows.addWidget(label(f"and {len(near) - MOST_LEAKS} fainter ones", "muted"))
        # Beside the section that leaks most, or else the one that is lit most.
        states = self.panel.assessment.sections
        at = near[0].section if near else max(states, key=lambda i: states[i].flux_lm, default="")
        torch = torch_test(self.panel.assessment, at)
        if torch is not None:
            name = next((s.name for s in plan.sections if s.id == at), at)
            self._rows.addWidget(label(torch_words(torch, name), "muted", wrap=True))


def read_reading(text: str) -> SwatchReading:
    """``2 coats: 1850 lx, 12.4 lx`` or ``2 1850 12.4``: coats, lux without, lux with."""
    numbers = re.findall(r"\d+(?:[.,]\d+)?", text)
    if len(numbers) != 3:
        raise QuantityError("Reading", f"“{text.strip()}”", "coats, lux without and lux with, such as 2 1850 12.4")
    n, a, b = (float(x.replace(",", ".")) for x in numbers)
    if n != int(n):
        raise QuantityError("Reading", f"{n:g} coats", "a whole number of coats")
    return SwatchReading(int(n), a, b)


class SwatchCard(PanelCard):
    """Own paint on own plastic: readings in, density a coat out, kept in the user's catalogue as measured."""

    title = "Swatches of your own"
    extra = True
    fields = (
        Field("name", "Paint", Text(60, placeholder="what is on the tin"), "What your paint is called among the coats", name="Name of your paint",
              takes=lambda card, v: None),
        Field("back", "Throws back", Number("%", 0, 95), "How much of the light on it comes back: about 4 for flat black, 65 for silver, 88 for flat white",
              name="Light your paint throws back", takes=lambda card, v: None),
        Field("reading", "Reading", Quantity(read_reading, placeholder="2 1850 12.4"), "Coats, lux without, lux with: 2 1850 12.4",
              name="Reading of the meter", takes=lambda card, v: card.take(v)),
    )  # fmt: skip

    def build(self) -> None:
        self.readings: list[SwatchReading] = []
        self.fitted: Swatch | None = None
        self.form.typed("back").setText("4 %")
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        self.card.outer.addLayout(self._rows)
        simulate = button_of(
            "Simulated meter", "Readings as a phone would take them of flat black on the kit’s plastic, to try it out", self._simulate
        )  # fmt: skip
        again = button_of("Start again", "Leave out all readings", self._clear)
        self.card.outer.addLayout(side_by_side(simulate, again))
        self.words = label("", wrap=True)
        self.card.outer.addWidget(self.words)
        self.keep = self.button(
            "Keep it in my catalogue", "From then on it is among the coats, marked as measured", self._keep
        )
        self._show()

    def refresh(self) -> None:
        """Nothing of it follows the plan: what is typed stays."""

    def take(self, value: SwatchReading) -> None:
        """One reading more."""
        self.readings.append(value)
        self.form.typed("reading").setText("")
        self._show()

    def _simulate(self) -> None:
        material = self.document.catalogue.materials.get(self.panel.plan.kit.material)
        bare = material.density_per_mm * 1.2 if material else 0.5
        self.readings = list(
            simulated_readings(
                self.document.catalogue.coats["flat-black"].density, bare, (0, 1, 2), seed=len(self.readings) + 1
            )
        )
        self._show()

    def _clear(self) -> None:
        self.readings = []
        self._show()

    def _drop(self, index: int) -> None:
        del self.readings[index]
        self._show()

    def _show(self) -> None:
        clear(self._rows)
        self.fitted, sentence = (
            None,
            "Hold the bare plastic before the meter, then with one coat, with two. Three readings are enough.",
        )
        try:
            if self.readings:
                self.fitted = fit_density(self.readings)
        except GwiazdaError as error:
            sentence = str(error)
        wild = self.fitted.wild if self.fitted else ()
        for i, r in enumerate(self.readings):
            odd = " – stands out, read it again" if i in wild else ""
            button = QPushButton(
                f"{r.coats} coats: {r.without_lx:g} → {r.with_lx:g} lx, D {r.density:.2f}{odd}"
                if r.with_lx <= r.without_lx
                else f"{r.coats} coats: {r.without_lx:g} → {r.with_lx:g} lx"
            )
            button.setObjectName("proposal" if not odd else "offer")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setToolTip("Leave this reading out")
            button.clicked.connect(lambda _=False, k=i: self._drop(k))
            self._rows.addWidget(button)
        if self.fitted is not None:
            f = self.fitted
            sentence = f"A coat blocks <b>D {f.density:.2f} ± {f.spread:.2f}</b>; the bare plastic D {f.plastic:.2f}."
        self.words.setText(sentence)
        self.keep.setEnabled(self.fitted is not None)

    def _keep(self) -> None:
        from gwiazda.core.workshop.own import with_swatch

        try:
            name = self.form.typed("name").text().strip()
            if not name:
                raise QuantityError("Your paint", "it has no name", "a name such as “matt black, blue lid”")
            back = float(self.form.read("back")) / 100
            assert self.fitted is not None
            workshop, _ = with_swatch(self.document.workshop, name, self.fitted, back)
            self.document.change_workshop(workshop)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        self.document.assess_now()
        self.document.message.emit(f"{name} is among your coats now: D {self.fitted.density:.2f} a coat.", "info")

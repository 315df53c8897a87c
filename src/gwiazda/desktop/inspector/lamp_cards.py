"""Cards of a lamp: what was done to it at the bench, what it stands for, and making a part of one's own of it."""

from __future__ import annotations

import math
import re
from collections.abc import Callable

from PySide6.QtWidgets import QCheckBox, QPushButton

from gwiazda.core.assess.carrier.standing import furnished
from gwiazda.core.assess.lamp.fit import Fit, fit_of
from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.assess.lamp.realism import REAL_LIGHTS, REAL_ROOMS, model_mcd, visible_cd_m2, visible_mcd
from gwiazda.core.circuit import datasheet
from gwiazda.core.errors import GwiazdaError, QuantityError
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Lamp, Section, Wanted
from gwiazda.core.quantities import figure, parse_current_a, parse_number, parse_voltage_v
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.inspector.lamp_pictures import CurvePicture, LampPicture
from gwiazda.desktop.inspector.reading import read_mm

TINTS = [("", "none"), *((t, t) for t in ("red", "orange", "yellow", "green", "blue"))]


class LampCard:
    """One card of a lamp's panel."""

    def __init__(self, panel: Panel, title: str, *stations: str) -> None:
        self.panel, self.document = panel, panel.document
        self.card = panel.card(title, *stations)

    def lamps(self) -> list[Lamp]:
        return [i for i in self.document.selected_items() if isinstance(i, Lamp)]

    def set(self, what: str, **fields: object) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))


class WorkedCard(LampCard):
    """Sanded, filed, tinted; the body in its gap, the beam, and whether it fits."""

    def __init__(self, panel: Panel) -> None:
        super().__init__(panel, "Body, beam, and work done on it", "light")
        card = self.card
        self.picture = LampPicture()
        card.outer.insertWidget(1, self.picture)
        self.sanded = QCheckBox("dome sanded flat")
        self.sanded.setToolTip("The beam widens to about 110°, the light drops by 15 %")
        self.sanded.clicked.connect(lambda on: self.set("Sand the dome", sanded=bool(on)))
        self.filed = panel.value(
            "Filed off in mm", read_mm, lambda v: self.set("File the top", filed_mm=v), "0 to 10 mm off the top"
        )
        card.row("", self.sanded)
        card.row("Filed off, mm", self.filed)
        self.bend = panel.value(
            "Head bent", lambda t: parse_number(t, "Bent", 0, 90, "°"), lambda v: self.set("Bend its head", bend_deg=v),
            "0 to 90° on its leads, which then leave sideways and take less room behind it",
        )  # fmt: skip
        card.row("Head bent, °", self.bend)
        self.tint = panel.choice("Tint of the tip", TINTS, lambda v: self.set("Tint the tip", tint=v))
        card.row("Tip tinted", self.tint)
        self.words = card.consequence()

    def refresh(self, lamps: list[Lamp]) -> None:
        first = lamps[0]
        self.sanded.setChecked(all(p.sanded for p in lamps))
        filed = common([p.filed_mm for p in lamps])
        self.filed.show_value(f"{filed:g}" if filed is not None else "")
        bend = common([p.bend_deg for p in lamps])
        self.bend.show_value(f"{bend:g}" if bend is not None else "")
        self.tint.show_value(str(common([p.tint for p in lamps]) or ""))
        fit = self._fit(first)
        self.picture.show_lamp(self.document.catalogue, first, fit)
        self.words.setText(self._words(first, fit))

    def _fit(self, lamp: Lamp) -> Fit | None:
        state = self.panel.assessment.lamps.get(lamp.id)
        plan = furnished(self.document.catalogue, self.panel.plan)
        section = find(plan, state.section or "") if state else None
        if not isinstance(section, Section) or lamp.part not in self.document.catalogue.lamps:
            return None
        homes = {i for i, s in self.panel.assessment.lamps.items() if s.section == section.id}
        return fit_of(self.document.catalogue, section, lamp, tuple(p for p in self.panel.plan.lamps if p.id in homes))

    def _words(self, lamp: Lamp, fit: Fit | None) -> str:
        if lamp.part not in self.document.catalogue.lamps:
            return ""
        done = worked(self.document.catalogue, lamp)
        beam = (
            "all round"
            if done.order < 0
            else f"{2 * math.degrees(math.acos(0.5 ** (1 / max(done.order, 0.05)))):.0f}° beam"
        )
        words = f"As it is: {beam}, {figure(done.flux_lm)} lm at rated current, {figure(done.height_mm, 2)} mm high."
        if fit is None:
            return words
        spare = (
            f"<b>{fit.clearance_mm:.1f} mm to spare</b>"
            if fit.clearance_mm >= 0
            else f"<b>{-fit.clearance_mm:.1f} mm too {'wide' if fit.across else 'thick'}</b>"
        )
        words += f" It needs {fit.needed_mm:.1f} mm and has {fit.gap_mm:.1f}: {spare}."
        if fit.too_long_mm > 0:
            words += f" It sticks <b>{fit.too_long_mm:.1f} mm</b> out lengthways."
        return words


class RealCard(LampCard):
    """True to scale, or bright enough for this room."""

    def __init__(self, panel: Panel) -> None:
        super().__init__(panel, "True to scale, or to be seen in this room", "measure")
        self.real = panel.choice("What it stands for", [], self._take_real)
        self.card.row("It stands for", self.real)
        self.seen = QPushButton("Bright enough to be seen in this room")
        self.seen.setToolTip("A point: 20 times the threshold of the eye. Windows: 5 times the hull.")
        self.seen.clicked.connect(self._take_seen)
        self.card.outer.addWidget(self.seen)
        self.words = self.card.consequence()

    def _wanted(self, wanted: Wanted) -> None:
        ids = [p.id for p in self.lamps()]
        self.document.edit("Change look", lambda plan: edits.set_wanted(plan, ids, wanted))

    def _take_real(self, value: str) -> None:
        if not value:
            return
        if value in REAL_LIGHTS:
            self._wanted(Wanted(mcd=model_mcd(REAL_LIGHTS[value].cd, self.panel.plan.kit.scale)))
        else:
            self._wanted(Wanted(cd_m2=REAL_ROOMS[value][1]))

    def _take_seen(self) -> None:
        hull = self.panel.assessment.hull_cd_m2
        if all(p.mount == "inside" for p in self.lamps()):
            self._wanted(Wanted(cd_m2=visible_cd_m2(hull)))
        else:
            self._wanted(Wanted(mcd=visible_mcd(hull, self.panel.plan.room.distance_m)))

    def refresh(self, lamps: list[Lamp]) -> None:
        inside = lamps[0].mount == "inside"
        kind = self.panel.plan.kit.kind
        if inside:
            choices = [(key, f"{name}, {cd:g} cd/m²") for key, (name, cd) in REAL_ROOMS.items()]
        else:
            choices = [
                (k, f"{r.name}, {r.cd:g} cd") for k, r in REAL_LIGHTS.items() if kind in r.kinds or kind == "other"
            ]
        if [self.real.itemData(i) for i in range(1, self.real.count())] != [k for k, _ in choices]:
            self.real.clear()
            for value, words in [("", "choose"), *choices]:
                self.real.addItem(words, value)
        self.real.setCurrentIndex(0)
        hull, room = self.panel.assessment.hull_cd_m2, self.panel.plan.room
        if inside:
            words = f"In {room.lux:g} lx windows are clearly lit from {figure(visible_cd_m2(hull))} cd/m² on."
        else:
            least = visible_mcd(hull, room.distance_m)
            words = f"In {room.lux:g} lx and from {room.distance_m * 100:g} cm a point is clearly seen from {figure(least, 2)} mcd on."
        self.words.setText(words)


def read_points(text: str) -> tuple[tuple[float, float], ...]:
    """``1 mA 2.65 V, 20 mA 3.1 V`` as points (A, V)."""
    out = []
    for piece in re.split(r"[;,]\s+|[;\n]", text.strip().rstrip(",;")):
        match = re.fullmatch(r"(.+?A)\s*(?:at\s+)?(.+)", piece.strip())
        if not match:
            raise QuantityError(
                "Data sheet",
                f"“{piece.strip()}” is not a point",
                "currents with voltages, such as 1 mA 2.65 V, 20 mA 3.1 V",
            )
        out.append((parse_current_a(match.group(1), "Data sheet"), parse_voltage_v(match.group(2), "Data sheet")))
    return tuple(out)


class OwnPartCard(LampCard):
    """A part of one's own, made from the one picked, its diode fitted to the points of a data sheet."""

    def __init__(self, panel: Panel) -> None:
        super().__init__(panel, "A part of your own", "bench")
        card = self.card
        self.name = panel.value("Name of your part", lambda t: t.strip()[:80], lambda v: None, "what you call it")
        self.name.setPlaceholderText("what you call it")
        card.row("Name", self.name)
        self.points = panel.value(
            "Data-sheet points", self._read, self._fitted, "1 mA 2.65 V, 20 mA 3.1 V: two or more"
        )
        self.points.setPlaceholderText("1 mA 2.65 V, 20 mA 3.1 V")
        card.row("Points", self.points)
        self.curve = CurvePicture()
        card.outer.addWidget(self.curve)

        def number(what: str, low: float, high: float, unit: str) -> Callable[[str], float]:
            return lambda t: parse_number(t, what, low, high, unit)

        self.beam = panel.value("Beam of your part", number("Beam", 1, 179, "°"), lambda v: None, "full angle, degrees")
        self.mcd = panel.value("Intensity of your part", number("Intensity", 0.01, 1e6, "mcd"), lambda v: None, "mcd")
        self.rated = panel.value("Rated current of your part", number("Rated", 0.1, 3000, "mA"), lambda v: None, "mA")
        card.row("° mcd mA", self.beam, self.mcd, self.rated)
        self.words = card.consequence()
        self.keep = QPushButton("Keep it in my catalogue")
        self.keep.setToolTip("Beside the generic parts, marked as measured; this lamp becomes one")
        self.keep.clicked.connect(self._keep)
        card.outer.addWidget(self.keep)
        self._fit: datasheet.Fit | None = None
        self._points: tuple[tuple[float, float], ...] = ()
        self._for = ""

    def _read(self, text: str) -> object:
        points = read_points(text)
        lamp = self.lamps()[0]
        return points, datasheet.fit_points(
            points, self.document.catalogue.families[self.document.catalogue.lamps[lamp.part].family].rs_ohm
        )

    def _fitted(self, value: object) -> None:
        self._points, self._fit = value  # type: ignore[misc]
        assert self._fit is not None
        self.curve.show_fit(self._fit, self._points)
        f = self._fit
        self.words.setText(
            f"n = {figure(f.n)}, Is = {f.is_a:.2g} A, Rs = {figure(f.rs_ohm)} Ω; the curve passes within "
            f"{figure(max(f.miss_v * 1e3, 0.1), 2)} mV of the points."
        )

    def refresh(self, lamps: list[Lamp]) -> None:
        part = self.document.catalogue.lamps.get(lamps[0].part)
        self.card.setVisible(len(lamps) == 1 and part is not None)
        if part is None or self._for == part.id:
            return
        self._for = part.id
        data = self.document.catalogue.families[part.family]
        self.name.show_value("")
        self.points.show_value(f"1 mA {data.v1_v:g} V, 20 mA {data.v20_v:g} V")
        self.beam.show_value(f"{part.beam_deg:g}")
        self.mcd.show_value(f"{part.axial_mcd:g}")
        self.rated.show_value(f"{part.rated_ma:g}")
        self._fitted(self._read(self.points.text()))

    def _keep(self) -> None:
        from gwiazda.core.workshop.own import with_fitted

        lamp = self.lamps()[0]
        try:
            name = self.name.text().strip()
            if not name:
                raise QuantityError("Your part", "it has no name", "a name such as “3 mm warm, blue bag”")
            self._fitted(self._read(self.points.text()))
            assert self._fit is not None
            workshop, part_id = with_fitted(
                self.document.workshop, self.document.catalogue.lamps[lamp.part], name, self._fit,
                parse_number(self.beam.text(), "Beam", 1, 179, "°"),
                parse_number(self.mcd.text(), "Intensity", 0.01, 1e6, "mcd"),
                parse_number(self.rated.text(), "Rated current", 0.1, 3000, "mA"),
            )  # fmt: skip
            self.document.change_workshop(workshop)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        self.document.edit("Make it your own part", lambda plan: edits.set_fields(plan, [lamp.id], part=part_id))
        self.document.message.emit(f"{name} is in your catalogue now.", "info")

"""Cards of a lamp: what was done to it at the bench, what it stands for, and making a part of one's own of it."""

from __future__ import annotations

import math
import re

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.lamp.fit import Fit, fit_of
from gwiazda.core.assess.lamp.modified_lamp import plain, worked
from gwiazda.core.assess.lamp.realism import model_mcd, visible_cd_m2, visible_mcd
from gwiazda.core.assess.lights.kinds import kinds_for, usual
from gwiazda.core.circuit.parts import datasheet
from gwiazda.core.errors import GwiazdaError, QuantityError
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Lamp, Section, Wanted
from gwiazda.core.quantities import figure, parse_current_a, parse_voltage_v
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Number, Quantity, Text, millimetres
from gwiazda.desktop.panels.panel import PanelCard
from gwiazda.desktop.stations.light.lamp_pictures import CurvePicture, LampPicture

TINTS = (("", "none"), *((t, t) for t in ("red", "orange", "yellow", "green", "blue")))


class WorkedCard(PanelCard):
    """Sanded, filed, tinted; the body in its gap, the beam, and whether it fits."""

    title = "Body, beam, and work done on it"
    extra = True
    model = Lamp
    fields = (
        Field("sanded", "", Flag("dome sanded flat"), "The beam widens to about 110°, the light drops by 15 %", "Sand the dome"),
        Field("filed_mm", "Filed off", millimetres(), "How much was filed off its top: it gets lower, and its beam wider", "File the top"),
        Field(
            "bend_deg", "Head bent", Number("°"), "Bent on its leads, which then leave sideways and take less room behind it", "Bend its head"
        ),
        Field("tint", "Tint of tip", Choice(TINTS), "Clear colour on its tip", "Tint the tip"),
    )  # fmt: skip

    def build(self) -> None:
        self.picture = LampPicture()
        self.card.outer.insertWidget(1, self.picture)
        self.words = self.card.consequence()

    def say(self) -> None:
        fit = self._fit(self.first)
        self.picture.show_lamp(self.document.catalogue, self.first, fit)
        self.words.setText(self._words(self.first, fit))

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
        plain_flux = plain(self.document.catalogue.lamps[lamp.part]).flux_lm * lamp.units
        words = f"As it is: {beam}, {figure(done.flux_lm / plain_flux * 100, 2)} % of the light of one left as it came, {figure(done.height_mm, 2)} mm high."
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


def _stands_for(card: RealCard) -> list[tuple[str, str]]:
    """Real lights and rooms that fit what is picked."""
    kit = card.plan.kit.kind
    kinds = [k for k in kinds_for(card.document.catalogue, kit) if usual(k, kit) or kit == "other"]
    if card.first.mount == "inside":
        return [("", "choose"), *((k.id, f"{k.name}, {k.real_cd_m2:g} cd/m²") for k in kinds if k.real_cd_m2)]
    return [("", "choose"), *((k.id, f"{k.one}, {k.real_cd:g} cd") for k in kinds if k.real_cd)]


def _take_real(card: RealCard, value: str) -> None:
    kind = card.document.catalogue.light_kinds.get(value)
    if kind is not None and card.first.mount != "inside":
        card.want(Wanted(mcd=model_mcd(kind.real_cd, card.plan.kit.scale)))
    elif kind is not None:
        card.want(Wanted(cd_m2=kind.real_cd_m2))


class RealCard(PanelCard):
    """True to scale, or bright enough for this room."""

    title = "True to scale, or to be seen in this room"
    fields = (
        Field(
            "real", "It stands for", Choice(_stands_for), "A real light or room: the model’s is made as bright, by its scale",
            name="What it stands for", get=lambda p: "", takes=_take_real,
        ),
    )  # fmt: skip

    def build(self) -> None:
        self.seen = self.button(
            "Bright enough to be seen in this room", "A point: 20 times the threshold of the eye. Windows: 5 times the hull.", self._take_seen
        )  # fmt: skip
        self.words = self.card.consequence()

    def want(self, wanted: Wanted) -> None:
        ids = [p.id for p in self.items()]
        self.document.edit("Change look", lambda plan: edits.set_wanted(plan, ids, wanted))

    def _take_seen(self) -> None:
        hull = self.panel.assessment.hull_cd_m2
        if all(p.mount == "inside" for p in self.items()):
            self.want(Wanted(cd_m2=visible_cd_m2(hull)))
        else:
            self.want(Wanted(mcd=visible_mcd(hull, self.plan.room.distance_m)))

    def say(self) -> None:
        hull, room = self.panel.assessment.hull_cd_m2, self.plan.room
        if self.first.mount == "inside":
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


class OwnPartCard(PanelCard):
    """A part of one's own, made from the one picked, its diode fitted to the points of a data sheet."""

    title = "A part of your own"
    fields = (
        Field("name", "Name", Text(80, placeholder="what you call it"), "What your part is called in the catalogue",
              name="Name of your part", takes=lambda card, v: None),
        Field("points", "Points", Quantity(read_points, placeholder="1 mA 2.65 V, 20 mA 3.1 V"),
              "Currents with their voltages from its data sheet, two or more: 1 mA 2.65 V, 20 mA 3.1 V",
              name="Data-sheet points", takes=lambda card, v: card.fit(v)),
        Field("beam", "Beam", Number("°", 1, 179), "Full angle within which it gives half its light or more",
              name="Beam of your part", takes=lambda card, v: None),
        Field("mcd", "Intensity", Number("mcd", 0.01, 1e6), "On its axis, at its rated current",
              name="Intensity of your part", takes=lambda card, v: None),
        Field("rated", "Rated current", Number("mA", 0.1, 3000), "The current at which its sheet gives the intensity",
              name="Rated current of your part", takes=lambda card, v: None),
    )  # fmt: skip

    def build(self) -> None:
        self.curve = CurvePicture()
        self.card.outer.addWidget(self.curve)
        self.words = self.card.consequence()
        self.keep = self.button(
            "Keep it in my catalogue", "Beside the generic parts, marked as measured; this lamp becomes one", self._keep
        )
        self._fit: datasheet.Fit | None = None
        self._for = ""

    def fit(self, points: tuple[tuple[float, float], ...]) -> datasheet.Fit:
        """Fit the diode to points and show it."""
        part = self.document.catalogue.lamps[self.first.part]
        f = self._fit = datasheet.fit_points(points, self.document.catalogue.families[part.family].rs_ohm)
        self.curve.show_fit(f, points)
        self.words.setText(
            f"n = {figure(f.n)}, Is = {f.is_a:.2g} A, Rs = {figure(f.rs_ohm)} Ω; the curve passes within "
            f"{figure(max(f.miss_v * 1e3, 0.1), 2)} mV of the points."
        )
        return f

    def refresh(self) -> None:
        # What is being typed stays: the fields are filled when another part is picked.
        part = self.document.catalogue.lamps.get(self.first.part)
        self.card.setVisible(len(self.items()) == 1 and part is not None)
        if part is None or self._for == part.id:
            return
        self._for = part.id
        data = self.document.catalogue.families[part.family]
        for path, text in (
            ("name", ""), ("points", f"1 mA {data.v1_v:g} V, 20 mA {data.v20_v:g} V"), ("beam", f"{part.beam_deg:g} °"),
            ("mcd", f"{part.axial_mcd:g} mcd"), ("rated", f"{part.rated_ma:g} mA"),
        ):  # fmt: skip
            self.form.typed(path).show_value(text)
        self.fit(read_points(self.form.typed("points").text()))

    def _keep(self) -> None:
        from gwiazda.core.workshop.own import with_fitted

        lamp = self.first
        try:
            name = self.form.typed("name").text().strip()
            if not name:
                raise QuantityError("Your part", "it has no name", "a name such as “3 mm warm, blue bag”")
            fit = self.fit(read_points(self.form.typed("points").text()))
            workshop, part_id = with_fitted(
                self.document.workshop, self.document.catalogue.lamps[lamp.part], name, fit,
                *(float(self.form.read(path)) for path in ("beam", "mcd", "rated")),
            )  # fmt: skip
            self.document.change_workshop(workshop)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        self.document.edit("Make it your own part", lambda plan: edits.set_fields(plan, [lamp.id], part=part_id))
        self.document.message.emit(f"{name} is in your catalogue now.", "info")

"""Fibre: the faces of lamps filled with their fibres, and from lamp to tip a strip that narrows where light is lost."""

from __future__ import annotations

import math

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QLinearGradient, QPainter, QPen, QPolygonF

from gwiazda.core.assess.fibres.lists import tags_of
from gwiazda.core.assess.states import BundleState, TipState
from gwiazda.core.plan.edits import panel_place
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.lookup import dot_of, lamps_table
from gwiazda.core.plan.model import Dot, Panel
from gwiazda.core.plan.naming import feeder_name, name_of
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.plate.lines.works import lamp_colour, lit_colour
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.theme.fonts import figure_font

CELL, LEAST_CELL = 128.0, 92.0  # px of a bundle's column
DECADES = 4.0  # of light that the strip spans
LOW, HIGH = 0.25, 4.0  # times the wanted light: the range of the balance


class FibreDrawer(StationDrawer):
    title = "Fibre"
    grows = True
    needs = 172

    def subtitle(self) -> str:
        assessment = self.document.assessment
        if not assessment.bundles:
            return "lamps’ faces filled with their fibres, and where the light is lost on the way"
        room = "G gives the plate its room back" if self.grown else "G gives it the room of the plate"
        return f"{counted(len(assessment.tips), 'fibre')} on {counted(len(assessment.bundles), 'lamp')} · {room}"

    def paint_body(self, painter: QPainter, body: QRectF) -> None:
        plan, assessment = self.document.assessed_plan, self.document.assessment
        if not plan.dots:
            self.words(
                painter, body, "No dots yet: I and a click on the skin puts one, a drag a row; Y drags a panel of many."
            )
            return
        if not assessment.bundles:
            self.words(
                painter, body,
                f"{counted(len(plan.dots), 'dot')} on no lamp. The card at the right groups them onto lamps; or pick some and give them one.",
            )  # fmt: skip
            return
        tip = self._shown_tip()
        strip = min(max(body.width() * 0.44, 330.0), 560.0)
        faces = QRectF(body.left(), body.top(), body.width() - strip - 16, body.height())
        if self.grown and plan.panels:
            faces.setHeight(max(body.height() * 0.42, 150.0))
        self._faces(painter, faces, tip)
        if tip is not None:
            self._strip(
                painter, QRectF(body.right() - strip, body.top() - 4, strip, min(body.height(), 240.0) + 6), tip
            )
        if self.grown and plan.panels:
            below = QRectF(body.left(), faces.bottom() + 10, body.width(), body.bottom() - faces.bottom() - 10)
            self._map(painter, below, self._shown_panel())

    # -- what is shown -----------------------------------------------------------------------------------

    def _shown_tip(self) -> TipState | None:
        """The picked dot's, or that of the picked lamp or of all that is furthest from what was wanted."""
        assessment = self.document.assessment
        for i in self.document.selection:
            if i in assessment.tips:
                return assessment.tips[i]
        chosen = [t for t in assessment.tips.values() if t.lamp in self.document.selection]
        tips = chosen or list(assessment.tips.values())
        return max(tips, key=lambda t: abs(math.log(max(t.reached, 1e-6))), default=None)

    def _shown_panel(self) -> Panel:
        plan = self.document.assessed_plan
        picked = {getattr(i, "panel", "") or i.id for i in self.document.selected_items()}
        return next((p for p in plan.panels if p.id in picked), plan.panels[0])

    # -- faces -------------------------------------------------------------------------------------------

    def _faces(self, painter: QPainter, area: QRectF, tip: TipState | None) -> None:
        assessment = self.document.assessment
        bundles = list(assessment.bundles.values())
        wide = min(max(area.width() / max(len(bundles), 1), LEAST_CELL), CELL)
        room = max(int(area.width() // wide + 1e-6), 1)
        chosen = set(self.document.selection)
        if len(bundles) > room:
            mine = {assessment.tips[i].lamp for i in chosen if i in assessment.tips} | chosen
            ranked = sorted(bundles, key=lambda b: (b.lamp not in mine, b.left))
            shown = {b.lamp for b in ranked[: room - 1]}
            self.words(
                painter, QRectF(area.left() + (room - 1) * wide, area.top() + 40, wide - 10, 18),
                f"and {len(bundles) - room + 1} more",
            )  # fmt: skip
            bundles = [b for b in bundles if b.lamp in shown]
        for k, bundle in enumerate(bundles):
            cell = QRectF(area.left() + k * wide, area.top(), wide - 10, area.height())
            strong = bundle.lamp in chosen or (tip is not None and tip.lamp == bundle.lamp)
            self.words(
                painter, QRectF(cell.left(), cell.top() - 2, cell.width(), 18), name_of(self.document.assessed_plan, bundle.lamp), "choice" if strong else "ink",
                bold=True,
            )  # fmt: skip
            high = min(cell.height() - 56, cell.width() - 8)
            face = QRectF(cell.left(), cell.top() + 20, high, high)
            self._face(painter, face, bundle)
            used = 1.0 - bundle.left
            state = "stop_ink" if used > 1.0 + 1e-9 else "ink"
            line = QRectF(cell.left(), face.bottom() + 3, cell.width(), 18)
            self.figure(painter, line, counted(len(bundle.dots), "fibre"), state, 14)
            share = f"{used * 100:.0f} %" if used <= 1 else f"{used * 100:.0f} %, too many:"
            self.words(painter, line.translated(0, 16), f"{share} of {bundle.face_mm:g} mm", "stop_ink" if used > 1 else "muted")  # fmt: skip
            spoken = (
                f"{name_of(self.document.assessed_plan, bundle.lamp)}: {counted(len(bundle.dots), 'fibre')}, a bundle of {bundle.bundle_mm:.1f} mm on {bundle.face_mm:g} mm; "
                f"{bundle.lit * 100:.1f} % of the lamp’s beam goes into them"
            )
            self.places.append((cell.adjusted(-4, -4, 2, 4), bundle.lamp, spoken))

    def _face(self, painter: QPainter, area: QRectF, bundle: BundleState) -> None:
        """The lamp's face and its fibres to scale; where they don't fit, they stand over its edge."""
        assessment, p = self.document.assessment, self.palette_
        whole = max(bundle.face_mm, bundle.bundle_mm if bundle.left < 0 else 0.0)
        scale = area.width() / whole
        c = area.center()
        lamp = assessment.lamps.get(bundle.lamp)
        glow = QColor(lamp_colour(lamp.rgb, p)) if lamp else p.colour("pane")
        glow.setAlpha(70)
        painter.setPen(QPen(p.colour("ink"), 1.4))
        painter.setBrush(glow)
        painter.drawEllipse(c, bundle.face_mm / 2 * scale, bundle.face_mm / 2 * scale)
        chosen = set(self.document.selection)
        for dot_id, thick, (x, y) in zip(bundle.dots, bundle.diameters_mm, bundle.centres.tolist(), strict=False):
            tip = assessment.tips[dot_id]
            colour = p.colour("stop") if tip.creased else lit_colour(tip.rgb, min(tip.reached, 1.0), p)
            at = c + QPointF(x, y) * scale
            painter.setPen(QPen(p.colour("choice" if dot_id in chosen else "fibre"), 2.2 if dot_id in chosen else 1.1))
            painter.setBrush(colour)
            r = max(thick / 2 * scale - 0.4, 0.8)
            painter.drawEllipse(at, r, r)
            if r > 3:
                name = dot_of(self.document.assessed_plan, dot_id).name or dot_id
                spoken = f"{name}: {figure(tip.cd * 1e3, 2)} mcd, {tip.reached * 100:.0f} % of what is wanted"
                self.places.append((QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r), dot_id, spoken))

    # -- from lamp to tip ----------------------------------------------------------------------------------

    def _strip(self, painter: QPainter, area: QRectF, tip: TipState) -> None:
        assessment, p = self.document.assessment, self.palette_
        dot = dot_of(self.document.assessed_plan, tip.id)
        loss = tip.loss
        steps = [("onto it", loss.coupling), ("end", loss.near_end)]
        if loss.sleeve < 1:
            steps.append(("hot sleeve", loss.sleeve))
        steps += [(f"{tip.length_mm:.0f} mm", loss.length), ("bends", loss.bends)]
        if loss.side < 1:
            steps.append(("scratched", loss.side))
        steps.append(("end", loss.far_end))
        if loss.tip < 1:
            steps.append(("tint, smoke" if dot.smoke and dot.tint else "smoke" if dot.smoke else "tint", loss.tip))
        self.words(painter, QRectF(area.left(), area.top() + 2, area.width(), 18), f"{name_of(self.document.assessed_plan, dot.id)}, from {feeder_name(self.document.assessed_plan, dot)}", "ink", bold=True)  # fmt: skip
        top, high = area.top() + 24, 44.0
        middle = top + high / 2
        left, width = area.left(), area.width() - 4
        each = width / len(steps)
        levels = [1.0]
        for _, kept in steps:
            levels.append(levels[-1] * kept)

        def tall(share: float) -> float:
            return high / 2 * max(1.0 + math.log10(max(share, 1e-9)) / DECADES, 0.02)

        lamp = assessment.lamps.get(tip.lamp)
        colour = lamp_colour(tip.rgb, p) if lamp or dot.fed == "section" else p.colour("live")
        gradient = QLinearGradient(left, 0, left + width, 0)
        for at, alpha in ((0.0, 255), (1.0, 170)):
            shade = QColor(colour)
            shade.setAlpha(alpha)
            gradient.setColorAt(at, shade)
        upper = [QPointF(left, middle - tall(1.0))]
        for k in range(len(steps)):
            # Each loss falls within its own stretch, the rest of it runs level.
            upper.append(QPointF(left + (k + 0.25) * each, middle - tall(levels[k])))
            upper.append(QPointF(left + (k + 0.75) * each, middle - tall(levels[k + 1])))
        upper.append(QPointF(left + width, middle - tall(levels[-1])))
        lower = [QPointF(q.x(), 2 * middle - q.y()) for q in reversed(upper)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("night"))
        painter.drawRoundedRect(QRectF(left - 2, top - 3, width + 4, high + 6), 4, 4)
        painter.setBrush(gradient)
        painter.drawPolygon(QPolygonF([*upper, *lower]))
        for k, (words, kept) in enumerate(steps):
            cell = QRectF(left + k * each, top + high + 4, each - 2, 16)
            strong = kept < 0.75 and k > 0
            text = f"{kept * 100:.2g} %" if kept < 0.1 else f"{kept * 100:.0f} %"
            self.figure(painter, cell, text, "look_ink" if strong else "ink", 13)
            self.words(painter, cell.translated(0, 14), words, "look_ink" if strong else "muted")
        self._balance(painter, QRectF(left, top + high + 37, width, 28), tip)

    def _balance(self, painter: QPainter, area: QRectF, tip: TipState) -> None:
        """All tips of the lamp on one scale about what is wanted of each."""
        p = self.palette_
        tips = [t for t in self.document.assessment.tips.values() if t.lamp == tip.lamp]
        line = area.top() + 20

        def at(reached: float) -> float:
            share = math.log(min(max(reached, LOW), HIGH) / LOW) / math.log(HIGH / LOW)
            return area.left() + 158 + share * (area.width() - 174)

        said = f"{figure(tip.cd * 1e3, 2)} mcd"
        self.figure(painter, QRectF(area.left(), area.top() + 6, 60, 20), said, "ink", 15)
        advance = painter.fontMetrics().horizontalAdvance(said)
        self.words(
            painter, QRectF(area.left() + advance + 5, area.top() + 7, 140 - advance, 20),
            f"of {figure(tip.wanted_cd * 1e3, 2)} wanted",
        )  # fmt: skip
        painter.setPen(QPen(p.colour("line"), 3))
        painter.drawLine(QLineF(at(LOW), line, at(HIGH), line))
        painter.setPen(QPen(p.colour("fine"), 3))
        painter.drawLine(QLineF(at(0.8), line, at(1.25), line))
        painter.setFont(figure_font(12, plain=True))
        for value, text in ((LOW, "¼"), (1.0, "wanted"), (HIGH, "4 ×")):
            painter.setPen(p.colour("muted"))
            painter.drawText(QRectF(at(value) - 24, line - 20, 48, 14), Qt.AlignmentFlag.AlignCenter, text)
        for t in sorted(tips, key=lambda t: t.id == tip.id):
            mine = t.id == tip.id
            painter.setPen(QPen(p.colour("ink"), 1.2))
            painter.setBrush(p.colour("live" if mine else "panel"))
            r = 4.5 if mine else 3.0
            painter.drawEllipse(QPointF(at(t.reached), line), r, r)

    # -- the map of a panel ---------------------------------------------------------------------------------

    def _map(self, painter: QPainter, area: QRectF, panel: Panel) -> None:
        """A panel's face with its dots and tags, each in the colour of its lamp's light, and who feeds whom beside it."""
        plan, p = self.document.assessed_plan, self.palette_
        dots = [d for d in plan.dots if d.panel == panel.id]
        self.words(painter, QRectF(area.left(), area.top(), area.width(), 18), f"{panel.name}, {panel.width_mm:g} × {panel.height_mm:g} mm: dot, fibre, lamp", "ink", bold=True)  # fmt: skip
        room = QRectF(area.left(), area.top() + 22, area.width() * 0.6, area.height() - 26)
        if room.height() < 30:
            return
        scale = min(room.width() / panel.width_mm, room.height() / panel.height_mm)
        face = QRectF(room.left(), room.top(), panel.width_mm * scale, panel.height_mm * scale)
        painter.setPen(QPen(p.colour("ink"), 1))
        painter.setBrush(p.colour("section"))
        painter.drawRect(face)
        corner = to_sheet(panel.side, panel_place(panel, 0.0, 0.0))
        tags = tags_of(plan)
        painter.setFont(figure_font(12, plain=True))
        for d in dots:
            x, y, _ = to_sheet(panel.side, d.at)
            at = face.topLeft() + QPointF((x - corner[0]) * scale, (y - corner[1]) * scale)
            self._mapped(painter, at, d, tags[d.id], scale)
        self._legend(
            painter, QRectF(face.right() + 20, room.top(), area.right() - face.right() - 24, room.height()), dots
        )

    def _mapped(self, painter: QPainter, at: QPointF, dot: Dot, tag: str, scale: float) -> None:
        assessment, p = self.document.assessment, self.palette_
        tip = assessment.tips.get(dot.id)
        fibre = self.document.catalogue.fibres.get(dot.fibre)
        r = max((fibre.diameter_mm if fibre else 0.5) / 2 * scale, 3.0)
        painter.setPen(QPen(p.colour("choice" if dot.id in self.document.selection else "fibre"), 1.4))
        painter.setBrush(p.colour("pane_dark") if tip is None else lit_colour(tip.rgb, min(tip.reached, 1.0), p))
        painter.drawEllipse(at, r, r)
        painter.setPen(p.colour("ink"))
        painter.drawText(QRectF(at.x() + r + 1, at.y() - 7, 34, 14), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, tag)  # fmt: skip
        self.places.append((QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r), dot.id, f"{tag}: {dot.fibre} to {feeder_name(self.document.assessed_plan, dot) or 'no lamp'}"))  # fmt: skip

    def _legend(self, painter: QPainter, area: QRectF, dots: list[Dot]) -> None:
        plan, tags = self.document.assessed_plan, tags_of(self.document.assessed_plan)
        lamps = lamps_table(plan.lamps)
        groups: dict[str, list[str]] = {}
        for d in dots:
            groups.setdefault(d.lamp, []).append(tags[d.id])
        for k, (lamp, mine) in enumerate(groups.items()):
            line = QRectF(area.left(), area.top() + 34 * k, area.width(), 18)
            if line.bottom() + 16 > area.bottom():
                return
            channel = lamps[lamp].channel if lamp in lamps else ""
            self.words(
                painter,
                line,
                f"{name_of(plan, lamp) if lamp else 'on no lamp'}{f' on {name_of(plan, channel)}' if channel else ''}",
                "ink",
                bold=True,
            )
            self.words(painter, line.translated(0, 16), ", ".join(mine))

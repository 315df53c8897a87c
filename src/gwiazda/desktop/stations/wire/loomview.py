"""The Wire drawer's other picture: every passage as a cross-section stuffed with its wires, in order from the source on."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.states import Assessment, PassageState
from gwiazda.core.plan.model import Passage, Plan
from gwiazda.core.quantities import counted
from gwiazda.desktop.plate.lines.wires import passage_state, wire_colour
from gwiazda.desktop.stations.drawer import StationDrawer

CELL = 112.0


def in_order(plan: Plan) -> list[Passage]:
    """Passages as one meets them from the sources on."""
    rooms: dict[str, int] = {f.home: 0 for f in plan.feeds}
    left, out, far = list(plan.passages), [], 0
    while left:
        near = [p for p in left if p.section in rooms or p.into in rooms]
        if not near:
            break
        far += 1
        fresh: dict[str, int] = {}
        for p in near:
            left.remove(p)
            out.append(p)
            for room in (p.section, p.into):
                fresh.setdefault(room, far)
        rooms = {**fresh, **rooms}
    return out + left


class LoomPainter:
    """Paints the passages of a plan into a drawer's body."""

    def __init__(self, drawer: StationDrawer) -> None:
        self.drawer = drawer

    def paint(self, painter: QPainter, body: QRectF) -> None:
        drawer = self.drawer
        plan, assessment = drawer.document.assessed_plan, drawer.document.assessment
        if not plan.passages:
            drawer.words(
                painter, body, "No passage yet: Shift+P and a drag from one section into the next makes one. Where the source sits is set on its card."
            )  # fmt: skip
            return
        passages = in_order(plan)
        rows = max(range(1, 6), key=lambda n: _cell(body, len(passages), n)) if drawer.grown else 1
        room = max(int(body.width() // CELL), 1) * rows
        if len(passages) > room:
            worst = sorted(passages, key=lambda p: -_fill(assessment, p))[: room - 1]
            passages = [p for p in passages if p in worst]
            drawer.words(painter, QRectF(body.right() - CELL, body.top() + 40, CELL, 18), "and more, less full")
        across = math.ceil(len(passages) / rows)
        wide = min(body.width() / max(across, 1), 300.0 if drawer.grown else 190.0)
        high = body.height() / rows
        for k, passage in enumerate(passages):
            cell = QRectF(body.left() + (k % across) * wide, body.top() + (k // across) * high, wide - 12, high)
            self._passage(painter, cell, passage, assessment)

    def _passage(self, painter: QPainter, cell: QRectF, passage: Passage, assessment: Assessment) -> None:
        drawer = self.drawer
        state = assessment.loom.passages.get(passage.id)
        chosen = passage.id in drawer.document.selection
        name = passage.name or passage.id
        drawer.words(
            painter,
            QRectF(cell.left(), cell.top() - 2, cell.width(), 18),
            name,
            "choice" if chosen else "ink",
            bold=True,
        )
        side = min(cell.height() - 58, cell.width() - 4)
        hole = QRectF(cell.left(), cell.top() + 20, side, side)
        if state is not None:
            self._hole(painter, hole, passage, state, assessment)
        count = len(state.runs) if state else 0
        verdict = passage_state(assessment, passage.id)
        ink = {"fine": "ink", "look": "look_ink", "stop": "stop_ink"}[verdict]
        line = QRectF(cell.left(), hole.bottom() + 3, cell.width(), 18)
        drawer.figure(painter, line, f"{state.fill * 100:.0f} %" if state else "–", ink, 15)
        advance = painter.fontMetrics().horizontalAdvance(f"{state.fill * 100:.0f} %" if state else "–")
        drawer.words(painter, line.adjusted(advance + 5, 1, 0, 1), counted(count, "wire"))
        size = (
            f"{passage.width_mm:g} mm"
            if passage.shape == "round"
            else f"{passage.width_mm:g} × {passage.height_mm:g} mm"
        )
        eased = f", {state.comfortable * 100:.0f} % is easy" if state and count and side > 60 else ""
        drawer.words(painter, line.translated(0, 17), f"{size}{eased}")
        spoken = f"{name}: {counted(count, 'wire')}, {state.fill * 100:.0f} % full of {size}" if state else name
        drawer.places.append((cell.adjusted(-4, -4, 4, 4), passage.id, spoken))

    def _hole(
        self, painter: QPainter, area: QRectF, passage: Passage, state: PassageState, assessment: Assessment
    ) -> None:
        p = self.drawer.palette_
        round_ = passage.shape == "round"
        w, h = passage.width_mm, passage.width_mm if round_ else passage.height_mm
        scale = min(area.width() / w, area.height() / h)
        c = area.center()
        painter.setPen(QPen(p.colour("ink"), 1.6))
        painter.setBrush(p.colour("night"))
        frame = QRectF(c.x() - w / 2 * scale, c.y() - h / 2 * scale, w * scale, h * scale)
        if round_:
            painter.drawEllipse(frame)
        else:
            painter.drawRect(frame)
        picked = set(self.drawer.document.marked)
        for run_id, thick, (x, y) in zip(state.runs, state.diameters_mm, state.centres.tolist(), strict=False):
            run = assessment.loom.runs[run_id]
            strong = bool(picked & set(run.lamps)) or any(run_id.startswith(f"{i}.") for i in picked)
            painter.setPen(QPen(p.colour("live") if strong else p.colour("paper", 150), 1.8 if strong else 0.7))
            painter.setBrush(wire_colour(run, p))
            at, r = c + QPointF(x, y) * scale, max(thick / 2 * scale - 0.3, 0.7)
            painter.drawEllipse(at, r, r)
            if run.kind == "trunk" and r > 2.5:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(p.colour("paper", 200))
                painter.drawEllipse(at, r * 0.4, r * 0.4)


def _cell(body: QRectF, count: int, rows: int) -> float:
    """How large cross-sections come out in so many rows."""
    return min(body.height() / rows - 58.0, body.width() / math.ceil(count / rows) - 16.0)


def _fill(assessment: Assessment, passage: Passage) -> float:
    state = assessment.loom.passages.get(passage.id)
    return state.fill if state else 0.0

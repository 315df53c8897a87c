"""Marks gathered in a view's own coordinates, then laid at the corner of a sheet."""

from __future__ import annotations

from gwiazda.core.drawing.sheets.page import Drawing, SheetMark, text

EDGE_MM = 4.0  # of paper left around a template


class Gathered:
    """Marks gathered in a view's sheet coordinates, then moved so that they begin at the upper left corner."""

    def __init__(self) -> None:
        self.marks: list[SheetMark] = []
        self._low = [float("inf"), float("inf")]
        self._high = [float("-inf"), float("-inf")]

    def add(self, *marks: SheetMark) -> None:
        for m in marks:
            r = m.size if m.kind == "disc" else 0.0
            for x, y in m.points:
                self._low = [min(self._low[0], x - r), min(self._low[1], y - r)]
                self._high = [max(self._high[0], x + r), max(self._high[1], y + r)]
            self.marks.append(m)

    def drawing(self, title: str, note: str = "") -> Drawing:
        dx, dy = EDGE_MM - self._low[0], EDGE_MM - self._low[1] + (6.0 if note else 0.0)
        moved = tuple(m._replace(points=tuple((x + dx, y + dy) for x, y in m.points)) for m in self.marks)
        if note:
            moved = (text(0.0, 4.0, note, 3.0), *moved)
        return Drawing(title, moved, self._high[0] + dx + EDGE_MM, self._high[1] + dy + EDGE_MM)

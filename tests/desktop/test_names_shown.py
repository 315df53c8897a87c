"""Whatever is shown of a plan is called by its name."""

from __future__ import annotations

import pytest
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QWidget
from tests.core.plan.test_naming import ids_in, ids_of

from gwiazda.demos import path_of
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.stations.registry import STATIONS


def words_on(widget: QWidget):
    """All words of the widgets within one, with their tips and what is read aloud."""
    for part in widget.findChildren(QWidget):
        yield part.toolTip()
        yield part.accessibleName()
        if isinstance(part, (QLabel, QAbstractButton, QLineEdit)):
            yield part.text()
        elif isinstance(part, QComboBox):
            yield from (part.itemText(i) for i in range(part.count()))


@pytest.fixture
def painted(monkeypatch) -> list[str]:
    """The words that drawers paint."""
    said: list[str] = []
    paint = StationDrawer.words

    def words(self, painter, rect, text, *rest, **more):
        said.append(text)
        paint(self, painter, rect, text, *rest, **more)

    monkeypatch.setattr(StationDrawer, "words", words)
    return said


@pytest.mark.parametrize("demo", ["bryla", "swistak"])
def test_no_panel_and_no_drawer_shows_an_id(opened, demo, request, painted):
    window, document = opened.window, opened.document
    document.open(path_of(demo), as_demo=True)
    plan = document.plan
    window.plate.setUpdatesEnabled(False)  # not looked at here, and painting it takes longest
    request.addfinalizer(lambda: window.plate.setUpdatesEnabled(True))
    known = ids_of(plan)
    groups = (plan.lamps, plan.sections, plan.openings, plan.dots, plan.passages, plan.hubs, plan.carriers, plan.cues, plan.channels, plan.boards)  # fmt: skip
    picks = [
        [],
        *([group[0].id] for group in groups if group),
        [p.id for p in plan.lamps[:3]],
        [plan.feeds[0].head[0].id],
    ]
    for station in STATIONS:
        if window.station != station.id:
            window.set_station(station.id)
        for pick in picks:
            document.select(pick)
            opened.settle(night=False)
            said = [*words_on(window.inspector.panel), *(words for _, _, words in window.drawer.places), *painted]
            painted.clear()
            shown = {i for words in said for i in ids_in(words, known)}
            assert not shown, (station.id, pick, shown)


def test_a_lamp_behind_a_pane_is_told_by_its_name(opened, painted):
    document, window = opened.document, opened.window
    document.open(path_of(), as_demo=True)
    seen = next(i for i, s in document.assessment.openings.items() if s.sight)
    window.set_station("block")
    document.select([seen])
    opened.settle(night=False)
    said = " ".join(words_on(window.inspector.panel))
    assert "in plain sight" in said and not ids_in(said, ids_of(document.plan))
    for station in ("fibre", "power"):
        window.set_station(station)
        opened.settle(night=False)
        window.drawer.repaint()
    assert painted and not ids_in(" ".join(painted), ids_of(document.plan))

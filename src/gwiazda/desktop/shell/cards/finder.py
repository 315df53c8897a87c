"""The finder (Ctrl+F): fields, tools, stations, things, findings and guide chapters by the words people use."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QFrame, QLabel, QListWidgetItem, QVBoxLayout

from gwiazda.core.plan.model import PICKED
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quick.lookup import Entry, ranked
from gwiazda.desktop.plate.tools.toolbox import TOOLBOX
from gwiazda.desktop.shell.cards import guide
from gwiazda.desktop.shell.export.exports import EXPORTS
from gwiazda.desktop.stations.registry import STATIONS, cards_of, name_of_station, station_of_topic
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.searchline import FoundList, SearchLine

if TYPE_CHECKING:
    from gwiazda.desktop.panels.panel import PanelCard
    from gwiazda.desktop.shell.window import MainWindow

Go = Callable[[], object]
WIDTH, TOP = 520, 58
NOUNS = {k.id: k.noun for k in PICKED} | {"circuit": "part of a circuit", "plan": "plan"}
ROW_PX = 40
# What people ask when they mean a figure.
METERS = {
    "draw": "current amps milliamps drawn from the source", "run_time": "how long the cells last, hours until the battery is empty",
    "evenness": "are the windows evenly lit", "leak": "does light come out where it should not", "reached": "is it as bright as wanted",
    "passage": "do the wires go through",
}  # fmt: skip


def go_to_field(window: MainWindow, station: str, kind: str, card: type[PanelCard], path: str) -> None:
    """Show a field: its station, something of its kind, its card, and the keys in it."""
    document = window.document
    if window.station != station:
        window.set_station(station)
    if kind == "plan":
        document.select(())
    elif not document.picked(kind):
        first = _first(window, kind)
        if first is None:
            window.show_message(f"It is a field of a {NOUNS.get(kind, kind)}, and the plan has none yet.")
            return
        document.select([first])
    panel = window.inspector.panel
    if panel is None:
        return
    made = panel.find_card(card)
    made.card.set_open(True)
    widget = made.form.widgets.get(path) if path else made.card.fold
    if widget is not None:
        window.inspector.show_widget(widget)
        widget.setFocus(Qt.FocusReason.ShortcutFocusReason)


def _first(window: MainWindow, kind: str) -> str | None:
    """Something of a kind that there is."""
    plan = window.document.plan
    if kind == "circuit":
        return plan.feeds[0].id
    group = next((k.group for k in PICKED if k.id == kind), "")
    items = getattr(plan, group) if group else ()
    return str(items[0].id) if items else None


def entries_of(window: MainWindow) -> Iterator[Entry[Go]]:
    """All that can be found in a window, as it is now."""
    plan = window.document.plan
    seen: set[tuple[str, type[PanelCard]]] = set()
    for station in STATIONS:
        yield Entry(
            station.name, f"Station, key {station.key}", station.about, partial(window.set_station, station.id), 0.3
        )
        for kind, cards in cards_of(station.id).cards.items():
            for card in cards:
                if (kind, card) in seen or not card.title:
                    continue
                seen.add((kind, card))
                where = f"{station.name}: {NOUNS.get(kind, kind)}"
                about = (card.__doc__ or "").split("\n")[0]
                yield Entry(card.title, where, about, partial(go_to_field, window, station.id, kind, card, ""), 0.1)
                for f in card.fields:
                    title = f.label or f.spoken
                    go = partial(go_to_field, window, station.id, kind, card, f.path)
                    yield Entry(
                        title,
                        f"{where}, {card.title}",
                        f"{f.help} {f.name} {f.edit}",
                        go,
                        0.35 if kind == "plan" else 0.2,
                    )
    for tool in TOOLBOX:
        yield Entry(tool.name, f"Tool, key {tool.key}", tool.hint, partial(window.tool_key, tool.id), 0.2)
    for export in EXPORTS:
        yield Entry(export.label, "Export", export.about, partial(window.files.ask_export, export.id), 0.1)
    for meter in window.document.assessment.meters:
        go = partial(window.go_to_meter, meter.id, meter.subject)
        yield Entry(meter.label, "Figure under the plate", METERS.get(meter.id, ""), go, 0.4)
    for words in ("Text size", "Paper of sheets", "Say what is next"):
        yield Entry(words, "Settings", "", window.settings_button.showMenu, 0.3)
    known = {f"{export.label}…" for export in EXPORTS}
    for action in window.actions():
        if action.text() in known:
            continue
        keys = action.shortcut().toString()
        yield Entry(action.text().rstrip("…"), f"Key {keys}" if keys else "Plan", "", action.trigger)
    for finding in window.document.findings:
        station_id = station_of_topic(finding.topic)
        go = partial(_go_to_thing, window, finding.subject, station_id)
        yield Entry(
            finding.sentence, f"To fix at {name_of_station(station_id)}", finding.rule.replace("-", " "), go, -1.2
        )
    for k in PICKED:
        for item in getattr(plan, k.group):
            name = name_of(plan, item.id)
            yield Entry(name, k.noun.capitalize(), "", partial(_go_to_thing, window, item.id, ""))
    for chapter in guide.chapters():
        yield Entry(chapter.title, f"Guide: {chapter.page}", chapter.words, partial(guide.show, window, chapter))


def _go_to_thing(window: MainWindow, item_id: str, station_id: str) -> None:
    if station_id and window.station != station_id:
        window.set_station(station_id)
    window.pick(item_id)
    window.plate.setFocus()


class FinderCard(Guarded, QFrame):
    """One line, and under it what it may mean; Enter goes there."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.main = window
        self.setObjectName("card")
        self.setAccessibleName("Finder")
        self._entries: list[Entry[Go]] = []
        self.found: list[Entry[Go]] = []
        box = QVBoxLayout(self)
        self.list = FoundList("Found", self)
        self.line = SearchLine(
            "Find", "fuse · how long does the pack last · keel tube · calibrate", self.list, self, self
        )
        self.line.textChanged.connect(self._look)
        box.addWidget(self.line)
        box.addWidget(self.list)
        self.none = QLabel("Nothing is called so. Try another word for it.")
        self.none.setObjectName("muted")
        box.addWidget(self.none)
        window.plate.installEventFilter(self)

    def open(self) -> None:
        """Show it, empty, with the keys in its line."""
        self._entries = list(entries_of(self.main))
        self.line.clear()
        self._look("")
        self.place()
        self.show()
        self.raise_()
        self.line.setFocus()

    def place(self) -> None:
        """Over the upper edge of the plate."""
        plate = self.main.plate
        wide = min(scaled(WIDTH), plate.width() - 24)
        at = plate.mapTo(self.main, plate.rect().topLeft())
        self.setFixedWidth(wide)
        self.adjustSize()
        self.move(at.x() + (plate.width() - wide) // 2, at.y() + scaled(TOP))

    def leave(self) -> None:
        """Put it away; the keys go back to the plate."""
        self.hide()
        self.main.plate.setFocus()

    def _look(self, text: str) -> None:
        self.found = ranked(text, self._entries) if text.strip() else []
        self.list.clear()
        for entry in self.found:
            item = QListWidgetItem(f"{entry.title}\n{entry.where}")
            item.setToolTip(f"{entry.title}: {entry.words}" if entry.words else entry.title)
            self.list.addItem(item)
        self.list.setCurrentRow(0 if self.found else -1)
        self.list.setVisible(bool(self.found))
        self.list.setFixedHeight(scaled(ROW_PX) * len(self.found) + 6)
        self.none.setVisible(bool(text.strip()) and not self.found)
        self.adjustSize()

    def take(self, row: int) -> None:
        """Go to what was found."""
        if 0 <= row < len(self.found):
            self.hide()
            self.main.plate.setFocus()
            self.found[row].target()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.main.plate and event.type() == QEvent.Type.Resize and self.isVisible():
            self.place()
        return False

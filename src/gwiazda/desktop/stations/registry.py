"""The stations that exist, in working order. A new station is a new folder and one line here."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gwiazda.core.memo import memoize_by_value
from gwiazda.core.plan.model.kinds import BY_KIND
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted
from gwiazda.desktop.stations import animate, bench, block, build, fibre, light, measure, power, wire
from gwiazda.desktop.stations.station import Cards, Contribution, Station

if TYPE_CHECKING:
    from gwiazda.desktop.panels.panel import Heading, Panel, PanelCard

__all__ = [
    "BY_ID",
    "STATIONS",
    "Station",
    "brought",
    "cards_of",
    "heading",
    "here",
    "name_of_station",
    "others",
    "station_of_meter",
    "station_of_topic",
]

STATIONS: tuple[Station, ...] = (
    measure.STATION,
    light.STATION,
    block.STATION,
    fibre.STATION,
    wire.STATION,
    power.STATION,
    animate.STATION,
    build.STATION,
    bench.STATION,
)
BY_ID = {s.id: s for s in STATIONS}
_TOPICS = {topic: s.id for s in reversed(STATIONS) for topic in s.topics}
_HOMES = {kind: s.id for s in STATIONS for kind in s.homes}


@memoize_by_value()
def brought(station_id: str) -> Contribution:
    """What a station brings where it is shown, loaded at its first use."""
    return BY_ID[station_id].bring()


@memoize_by_value()
def cards_of(station_id: str) -> Cards:
    """What a station has for the panel, loaded at its first use."""
    return BY_ID[station_id].cards()


def here(kind: str, station_id: str) -> tuple[type[PanelCard], ...]:
    """The cards for a kind of thing at a station; where it has none, those of the station the kind is at home."""
    return cards_of(station_id).cards.get(kind) or cards_of(_HOMES.get(kind, station_id)).cards.get(kind, ())


def others(kind: str, station_id: str) -> tuple[type[PanelCard], ...]:
    """The cards that the other stations have for it."""
    mine = here(kind, station_id)
    every = (card for s in STATIONS for card in cards_of(s.id).cards.get(kind, ()))
    return tuple(card for card in dict.fromkeys(every) if card not in mine)


def heading(kind: str, station_id: str) -> Heading:
    """What a panel says above its cards: by the station the kind is at home, or just what is picked."""
    return cards_of(_HOMES.get(kind, station_id)).headings.get(kind, _heading)


def _heading(panel: Panel) -> tuple[str, str]:
    picked, noun = panel.items(), BY_KIND[panel.kind].noun
    return (name_of(panel.plan, picked[0].id), noun) if len(picked) == 1 else (counted(len(picked), noun), "")


def station_of_topic(topic: str) -> str:
    """Where what a finding is about is settled."""
    return _TOPICS.get(topic, STATIONS[0].id)


def station_of_meter(meter: str) -> str:
    """Where a meter's culprit is looked for."""
    return next((s.id for s in STATIONS if meter in s.meters), STATIONS[0].id)


def name_of_station(station_id: str) -> str:
    return BY_ID[station_id].name

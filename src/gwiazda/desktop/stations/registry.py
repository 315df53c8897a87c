"""The stations that exist, in working order. A new station is a new folder and one line here."""

from __future__ import annotations

from gwiazda.desktop.stations import animate, bench, block, build, fibre, light, measure, power, wire
from gwiazda.desktop.stations.station import Station, load

__all__ = ["BY_ID", "STATIONS", "Station", "load", "station_of_meter", "station_of_topic"]

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


def station_of_topic(topic: str) -> str:
    """Where what a finding is about is settled."""
    return _TOPICS.get(topic, STATIONS[0].id)


def station_of_meter(meter: str) -> str:
    """Where a meter's culprit is looked for."""
    return next((s.id for s in STATIONS if meter in s.meters), STATIONS[0].id)

"""Wire: what hangs how on which source."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="wire",
    key="5",
    name="Wire",
    about="what hangs how on which source",
    tools=(("pick",), ("passage", "hub"), ("way",)),
    topics=("wiring", "rating", "loom"),
    meters=("passage",),
    drawer="stations.wire.drawer:WireDrawer",
    panels={"circuit": "stations.wire.panel:CircuitPanel"},
    plan_cards=(
        "stations.wire.cards:PlanWiringCard",
        "stations.wire.loomcards:LoomCard",
        "stations.wire.ideas:ProposalsCard",
        "stations.wire.ideas:ClipsCard",
    ),
    overlays=("plate.wires:paint_wires",),
)

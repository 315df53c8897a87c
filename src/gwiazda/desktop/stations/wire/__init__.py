"""Wire: what hangs how on which source."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="wire",
    key="5",
    name="Wire",
    about="what hangs how on which source",
    tools=(("pick",),),
    topics=("wiring", "rating"),
    drawer="stations.wire.drawer:WireDrawer",
    panels={"circuit": "stations.wire.panel:CircuitPanel"},
    plan_cards=(
        "stations.wire.cards:PlanWiringCard",
        "stations.wire.ideas:ProposalsCard",
        "stations.wire.ideas:ClipsCard",
    ),
)

"""Build: in what order, tested when, evening by evening."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="build",
    key="8",
    name="Build",
    about="in what order, and tested when",
    tools=(("pick",),),
    topics=("build",),
    drawer="stations.build.drawer:BuildDrawer",
    plan_cards=(
        "stations.build.cards:TonightCard",
        "stations.build.evenings:OrdersCard",
        "stations.build.evenings:EveningsCard",
        "stations.build.buying:BuyCard",
    ),
    overlays=("stations.build.stage:paint_stages",),
    shows_opened=True,
)

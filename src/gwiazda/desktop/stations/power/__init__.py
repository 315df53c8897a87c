"""Power: the sources and how long they last."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="power",
    key="6",
    name="Power",
    about="the supply and how long it lasts",
    tools=(("pick",),),
    topics=("supply",),
    drawer="stations.power.drawer:PowerDrawer",
    meters=("draw", "run_time"),
    plan_cards=("stations.power.cards:SupplyCard", "stations.power.cards:WarmthCard"),
)

"""Fibre: points of light, and which lamp feeds them."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="fibre",
    key="4",
    name="Fibre",
    about="points of light, and which lamp feeds them",
    tools=(("pick",), ("dot", "panel"), ("way",)),
    topics=("fibre",),
    drawer="stations.fibre.drawer:FibreDrawer",
    plan_cards=("stations.fibre.cards:GroupingCard", "stations.fibre.cards:ListsCard"),
)

"""Animate: what the channels do in time, and what drives them."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="animate",
    key="7",
    name="Animate",
    about="what the lights do in time",
    tools=(("pick",),),
    topics=("cue", "output"),
    drawer="stations.animate.drawer:AnimateDrawer",
    plan_cards=("stations.animate.cards:ShowCard", "stations.animate.cards:BoardsCard"),
)

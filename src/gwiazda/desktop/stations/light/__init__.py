"""Light: lamps, their look and their resistors."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="light",
    key="2",
    name="Light",
    about="lamps, their look and their resistors",
    tools=(("pick",), ("lamp", "point", "carrier"), ("window", "row"), ("brush",), ("eye", "throw")),
    topics=("lamp", "look", "fit", "scale"),
    drawer="stations.light.drawer:LightDrawer",
    meters=("evenness", "reached"),
    overlays=("plate.rowcurve:paint_row",),
    wants="lamps",
)

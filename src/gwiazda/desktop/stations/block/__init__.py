"""Block: skins, leaks and what softens the light."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="block",
    key="3",
    name="Block",
    about="skins, leaks and what softens the light",
    tools=(("pick",), ("lamp",), ("window",), ("eye",)),
    topics=("skin", "leak", "pane"),
    drawer="stations.block.drawer:BlockDrawer",
    meters=("leak",),
    panels={"section": "stations.block.skin:SkinPanel"},
    plan_cards=("stations.block.cards:LeakCard", "stations.block.cards:SwatchCard"),
    overlays=("plate.rowcurve:paint_row",),
)

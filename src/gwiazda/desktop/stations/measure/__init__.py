"""Measure: sections and the windows in them."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="measure",
    key="1",
    name="Measure",
    about="sections and the windows in them",
    tools=(
        ("pick",), ("calibrate", "level", "square", "crop", "align"), ("trace", "section", "wand"),
        ("window", "row", "curve", "cut"), ("brush",),
    ),
    topics=("shape", "awake"),
    drawer="stations.measure.drawer:MeasureDrawer",
    plan_cards=(
        "stations.measure.cards:ViewCard", "stations.measure.cards:ShapeCard", "stations.measure.features:FeatureCard",
        "stations.measure.features:EffortCard",
    ),
    wants="sections",
)  # fmt: skip

"""Bench: what was read, what is broken, and what is worth writing down."""

from gwiazda.desktop.stations.station import Station

STATION = Station(
    id="bench",
    key="9",
    name="Bench",
    about="readings, faults and the log",
    tools=(("pick",),),
    topics=("reading",),
    drawer="stations.bench.drawer:BenchDrawer",
    plan_cards=(
        "stations.bench.cards:SuspectsCard",
        "stations.bench.cards:ReadingCard",
        "stations.bench.cards:LogCard",
        "stations.bench.photocard:PhotoCard",
        "stations.bench.variants:VariantsCard",
        "stations.bench.learning:LearnCard",
        "stations.bench.cards:PracticeCard",
    ),
    overlays=("stations.bench.glow:paint_suspects", "stations.bench.photoview:paint_photo"),
)

"""Bench: what was read, what is broken, and what is worth writing down."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.bench.drawer import BenchDrawer
    from gwiazda.desktop.stations.bench.glow import paint_suspects
    from gwiazda.desktop.stations.bench.photoview import paint_photo

    return Contribution(BenchDrawer, (paint_suspects, paint_photo))


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.bench import builds, cards, learning, photocard, readings, rescue, variants
    from gwiazda.desktop.stations.light.lamp_work import OwnPartCard

    return Cards(
        {
            "plan": (
                cards.SuspectsCard,
                readings.ReadingCard,
                cards.LogCard,
                photocard.PhotoCard,
                learning.LearnCard,
                rescue.RescueCard,
                variants.VariantsCard,
                builds.BuildsCard,
                cards.PracticeCard,
            ),
            "lamp": (readings.ReadingCard, rescue.RescueCard, OwnPartCard),
            "dot": (rescue.RescueCard,),
            "opening": (readings.PaneReadingCard, rescue.RescueCard),
            "section": (rescue.RescueCard, variants.VariantsCard),
            "circuit": (variants.VariantsCard,),
        },
    )


STATION = Station(
    id="bench",
    key="9",
    name="Bench",
    about="readings, faults and the log",
    tools=(("pick",),),
    topics=("reading",),
    bring=bring,
    cards=panel_cards,
)  # fmt: skip

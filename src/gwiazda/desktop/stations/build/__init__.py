"""Build: in what order, tested when, evening by evening."""

from gwiazda.desktop.stations.station import Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.build import buying, cards, evenings
    from gwiazda.desktop.stations.build.drawer import BuildDrawer
    from gwiazda.desktop.stations.build.stage import paint_stages
    from gwiazda.desktop.stations.light.carrier import PatternCard

    return Contribution(
        drawer=BuildDrawer,
        cards={
            "plan": (cards.TonightCard, evenings.OrdersCard, evenings.EveningsCard, buying.BuyCard),
            "section": (cards.SectionBuildCard,),
            "carrier": (PatternCard,),
        },
        overlays=(paint_stages,),
    )


STATION = Station(
    id="build",
    key="8",
    name="Build",
    about="in what order, and tested when",
    tools=(("pick",),),
    topics=("build",),
    bring=bring,
    shows_opened=True,
)  # fmt: skip

"""Build: in what order, tested when, evening by evening."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.build.days import stage_of
    from gwiazda.desktop.stations.build.drawer import BuildDrawer
    from gwiazda.desktop.stations.build.stage import paint_stages

    return Contribution(BuildDrawer, (paint_stages,), stage_of)


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.build import buying, cards, evenings, ownparts, through
    from gwiazda.desktop.stations.light.carrier import PatternCard

    return Cards(
        {
            "plan": (
                cards.TonightCard,
                through.ThroughBuildCard,
                evenings.OrdersCard,
                evenings.EveningsCard,
                buying.BuyCard,
                ownparts.OwnPartsCard,
            ),
            "section": (cards.SectionBuildCard,),
            "carrier": (PatternCard,),
        },
    )


STATION = Station(
    id="build",
    key="8",
    name="Build",
    about="in what order, and tested when",
    tools=(("pick",),),
    topics=("build",),
    bring=bring,
    cards=panel_cards,
    shows_opened=True,
)  # fmt: skip

"""Fibre: points of light, and which lamp feeds them."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.fibre.drawer import FibreDrawer

    return Contribution(FibreDrawer)


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.fibre import cards, face, panel

    return Cards(
        {
            "plan": (cards.GroupingCard, cards.ListsCard),
            "lamp": (cards.BundleCard,),
            "dot": (panel.DotCard, panel.DotLampCard, panel.WayCard, cards.BundleCard, panel.DotPlaceCard),
            "panel": (face.FaceCard, face.FaceDotsCard),
        },
        {"dot": panel.heading, "panel": face.heading},
    )


STATION = Station(
    id="fibre",
    key="4",
    name="Fibre",
    about="points of light, and which lamp feeds them",
    tools=(("pick",), ("dot", "panel"), ("way",)),
    topics=("fibre",),
    bring=bring,
    cards=panel_cards,
    homes=("dot", "panel"),
)  # fmt: skip

"""Power: the sources and how long they last."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.power.drawer import PowerDrawer

    return Contribution(PowerDrawer)


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.light.lamp import LookCard
    from gwiazda.desktop.stations.light.room import ChannelsCard
    from gwiazda.desktop.stations.power import cards
    from gwiazda.desktop.stations.power.bodies import BodiesCard
    from gwiazda.desktop.stations.wire.rails import RailsCard

    return Cards(
        {
            "plan": (cards.SupplyCard, BodiesCard, cards.WarmthCard, ChannelsCard),
            "lamp": (cards.LampPowerCard, RailsCard, LookCard),
        },
    )


STATION = Station(
    id="power",
    key="6",
    name="Power",
    about="the supply and how long it lasts",
    tools=(("pick",), ("stand",)),
    topics=("supply",),
    meters=("draw", "run_time"),
    bring=bring,
    cards=panel_cards,
)  # fmt: skip

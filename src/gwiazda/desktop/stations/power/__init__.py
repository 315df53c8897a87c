"""Power: the sources and how long they last."""

from gwiazda.desktop.stations.station import Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.light.lamp import LookCard
    from gwiazda.desktop.stations.light.room import ChannelsCard
    from gwiazda.desktop.stations.power import cards
    from gwiazda.desktop.stations.power.drawer import PowerDrawer

    return Contribution(
        drawer=PowerDrawer,
        cards={
            "plan": (cards.SupplyCard, cards.WarmthCard, ChannelsCard),
            "lamp": (cards.LampPowerCard, LookCard),
        },
    )


STATION = Station(
    id="power",
    key="6",
    name="Power",
    about="the supply and how long it lasts",
    tools=(("pick",),),
    topics=("supply",),
    meters=("draw", "run_time"),
    bring=bring,
)  # fmt: skip

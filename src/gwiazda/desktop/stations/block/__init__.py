"""Block: skins, leaks and what softens the light."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.plate.rowcurve import paint_row
    from gwiazda.desktop.stations.block.drawer import BlockDrawer

    return Contribution(BlockDrawer, (paint_row,))


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.block import cards, pane, shell, skin
    from gwiazda.desktop.stations.light.room import ChannelsCard, RoomCard
    from gwiazda.desktop.stations.light.rose import RoseCard

    return Cards(
        {
            "plan": (cards.LeakCard, cards.SwatchCard, RoomCard, ChannelsCard),
            "section": (
                skin.SkinCard,
                skin.LiningsCard,
                skin.FewestCoatsCard,
                skin.SeamsCard,
                skin.PatchesCard,
                skin.SoftCard,
            ),
            "opening": (pane.PaneCard, shell.ShellCard, pane.ColourCard, RoseCard),
        },
    )


STATION = Station(
    id="block",
    key="3",
    name="Block",
    about="skins, leaks and what softens the light",
    tools=(("pick",), ("lamp",), ("window",), ("eye",)),
    topics=("skin", "leak", "pane"),
    meters=("leak",),
    bring=bring,
    cards=panel_cards,
)  # fmt: skip

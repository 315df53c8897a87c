"""Animate: what the channels do in time, and what drives them."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.animate.drawer import AnimateDrawer

    return Contribution(AnimateDrawer)


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.animate import board, cards, channel, cue, intime, protoboards, trigger

    return Cards(
        {
            "plan": (cards.ShowCard, cards.BoardsCard),
            "lamp": (intime.InTimeCard,),
            "dot": (intime.InTimeCard,),
            "cue": (cue.CueDoesCard, cue.CueWhenCard, cue.CueChannelsCard),
            "channel": (channel.ChannelDoesCard, channel.DrivenCard, channel.ChannelLampsCard),
            "board": (board.BoardCard, board.TimerCard, protoboards.SolderedBoardCard),
            "trigger": (trigger.TriggerCard,),
        },
        {"cue": cue.heading, "channel": channel.heading, "board": board.heading, "trigger": trigger.heading},
    )


STATION = Station(
    id="animate",
    key="7",
    name="Animate",
    about="what the lights do in time",
    tools=(("pick",),),
    topics=("cue", "output"),
    bring=bring,
    cards=panel_cards,
    homes=("cue", "channel", "board", "trigger"),
)  # fmt: skip

"""Light: lamps, their look and their resistors."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.plate.rowcurve import paint_row
    from gwiazda.desktop.stations.light.drawer import LightDrawer

    return Contribution(LightDrawer, (paint_row,))


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.block.pane import PaneCard
    from gwiazda.desktop.stations.light import carrier, fewest, lamp, lamp_work, lens, lights, room, rose, tryout
    from gwiazda.desktop.stations.measure import fitting, opening, section, section_cards

    return Cards(
        {
            "plan": (room.RoomCard, room.ChannelsCard),
            "section": (section.SectionLookCard, section_cards.AwakeCard, fewest.FewestCard, carrier.HoldsCard),
            "opening": (
                opening.OpeningCard,
                opening.WindowLookCard,
                opening.LitCard,
                lens.LensCard,
                PaneCard,
                rose.RoseCard,
            ),
            "light": (lights.BrightCard, tryout.TryoutCard, lights.CarriedCard, lights.TakesCard, lights.LightCard),
            "lamp": (lamp.LookCard, tryout.TryoutCard, lamp.PartCard, lamp_work.WorkedCard),
            "fitting": (fitting.FittingCard, fitting.FittingPlaceCard),
            "carrier": (carrier.CarrierCard, carrier.PatternCard, carrier.WayInCard),
        },
        {"light": lights.heading, "lamp": lamp.heading, "carrier": carrier.heading},
    )


STATION = Station(
    id="light",
    key="2",
    name="Light",
    about="lamps, their look and their resistors",
    tools=(("pick",), ("light",), ("lamp", "point", "carrier"), ("window", "row"), ("brush",), ("eye", "throw")),
    topics=("lamp", "look", "fit", "scale"),
    meters=("evenness", "reached"),
    bring=bring,
    cards=panel_cards,
    homes=("light", "lamp", "carrier"),
    wants="lamps",
)  # fmt: skip

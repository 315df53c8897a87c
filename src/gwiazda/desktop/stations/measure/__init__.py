"""Measure: sections and the windows in them."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.stations.measure.drawer import MeasureDrawer

    return Contribution(MeasureDrawer)


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.block.shell import ShellCard
    from gwiazda.desktop.stations.light import carrier, lamp, lamp_work, lens, room
    from gwiazda.desktop.stations.measure import cards, fitting, lights, opening, section, section_cards

    return Cards(
        {
            "plan": (room.KitCard, cards.ViewCard, cards.ShapeCard, lights.LightsCard, lights.EffortCard),
            "light": (lights.ReasonCard, lights.CountCard),
            "section": (
                section.BoxCard,
                section.PatternsCard,
                section_cards.AwakeCard,
                section_cards.ClosureCard,
                section_cards.ObstacleCard,
                section.SectionPlaceCard,
            ),
            "opening": (opening.OpeningCard, opening.LitCard, lens.LensCard, ShellCard, opening.OpeningPlaceCard),
            "lamp": (lamp.PartCard, lamp.LampPlaceCard, lamp_work.RealCard),
            "fitting": (fitting.FittingCard, fitting.FittingPlaceCard),
            "carrier": (carrier.CarrierCard, carrier.PatternCard, carrier.WayInCard, carrier.CarrierPlaceCard),
        },
        {
            "plan": room.heading,
            "section": section.heading,
            "opening": opening.heading,
            "fitting": fitting.heading,
        },
    )


STATION = Station(
    id="measure",
    key="1",
    name="Measure",
    about="sections and the windows in them",
    tools=(
        ("pick",), ("calibrate", "level", "square", "crop", "align"), ("trace", "section", "wand"),
        ("window", "row", "curve", "cut"), ("brush",),
    ),
    topics=("shape", "awake"),
    bring=bring,
    cards=panel_cards,
    homes=("plan", "section", "opening", "fitting"),
    wants="sections",
)  # fmt: skip

"""Wire: what is connected how to which source."""

from gwiazda.desktop.stations.station import Cards, Contribution, Station


def bring() -> Contribution:
    from gwiazda.desktop.plate.lines.wires import paint_wires
    from gwiazda.desktop.stations.wire.drawer import WireDrawer

    return Contribution(WireDrawer, (paint_wires,))


def panel_cards() -> Cards:
    from gwiazda.desktop.stations.animate.protoboards import ResistorBoardCard
    from gwiazda.desktop.stations.bench.variants import VariantsCard
    from gwiazda.desktop.stations.light.lamp import LookCard
    from gwiazda.desktop.stations.measure.section_cards import ObstacleCard
    from gwiazda.desktop.stations.power.cards import SupplyCard
    from gwiazda.desktop.stations.wire import cards, hub, ideas, leadcard, loomcards, parts, passage, rails, stand

    return Cards(
        {
            "plan": (cards.PlanWiringCard, loomcards.LoomCard, ResistorBoardCard, ideas.ProposalsCard, ideas.ClipsCard),
            "lamp": (
                cards.ActionsCard,
                rails.RailsCard,
                leadcard.LeadCard,
                LookCard,
                ideas.HabitCard,
                ideas.DimmingCard,
            ),
            "section": (ObstacleCard,),
            "passage": (
                passage.PassageCard,
                stand.StandCard,
                passage.PassageMadeCard,
                passage.ThroughCard,
                passage.PassagePlaceCard,
            ),
            "hub": (hub.HubCard, hub.HubPlaceCard),
            "circuit": (
                parts.FlowCard,
                parts.ResistorCard,
                parts.FuseCard,
                parts.SwitchCard,
                parts.WireCard,
                parts.LoadCard,
                parts.RegulatorCard,
                parts.StageCard,
                SupplyCard,
                cards.ActionsCard,
                ideas.ClipsCard,
                VariantsCard,
            ),
        },
        {"passage": passage.heading, "hub": hub.heading, "circuit": parts.heading},
    )


STATION = Station(
    id="wire",
    key="5",
    name="Wire",
    about="what is connected how to which source",
    tools=(("pick",), ("passage", "stand", "hub"), ("way",)),
    topics=("wiring", "rating", "loom"),
    meters=("passage",),
    bring=bring,
    cards=panel_cards,
    homes=("passage", "hub", "circuit"),
)  # fmt: skip

"""The circuits of whole plans: operating point, battery life, tolerance draws, many lamps, proposals, the drawing."""

from __future__ import annotations

from benchmarks.circuits import median_ms
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics import netlist, tolerance
from gwiazda.core.assess.electrics.evening import options_for
from gwiazda.core.assess.electrics.propose import proposals
from gwiazda.core.assess.electrics.stage import given_by, netlists
from gwiazda.core.circuit import network as solver
from gwiazda.core.drawing.rails import rails_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Feed, Lamp, Plan, Supply, Wanted
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of


def lamps_plan(count: int, supply: str = "block-9v") -> Plan:
    """So many lamps of three colours at seven currents, seen themselves, each on its own."""
    colours = ("chip-0805-red", "chip-0603-warm-white", "round-3-green")
    lamps = tuple(
        Lamp(id=f"l{i:04d}", part=colours[i % 3], at=(0.3 * i, 0.0, 0.0), mount="outside", channel=f"c{i % 4}",
             wanted=Wanted(current_ma=1.0 + i % 7))
        for i in range(count)
    )  # fmt: skip
    return edits.with_channels(Plan(lamps=lamps, feeds=(Feed(id="supply", supply=Supply(part=supply)),)))


def run(say) -> None:
    catalogue = built_in()
    for name in ("szron", "swistak"):
        plan = load(path_of(name)).plan
        given = given_by(plan, assess(plan, catalogue))
        circuits = netlists(
            given.catalogue, plan.feeds, given.shelf, given.lamps, given.kinds, given.wanted, apart=False
        )

        def point(circuits=circuits):
            for _, source, drawn in circuits:
                network = solver.Network(
                    [solver.Source("s", "plus", "0", source.volts, source.ohms), *drawn.net.elements]
                )
                network.solve()

        say(f"wiring: {name}, operating point with its network compiled: {median_ms(point, 40):.2f} ms (asked 3)")
        (_, source, drawn), *_ = circuits
        life = median_ms(lambda s=source, d=drawn: netlist._solved(s, d.net.elements, d.net.alike), 15)
        say(f"  its battery from fresh to empty, 81 points: {life:.1f} ms (asked 80)")

    plan = lamps_plan(60)
    assessment = assess(plan, catalogue)
    seeds = iter(range(10_000))
    draws = median_ms(lambda: tolerance.tolerance_of(plan, assessment, seed=next(seeds)), 9)
    say(f"wiring: 1,000 draws on 60 lamps, seeded, with their quantiles: {draws:.0f} ms (asked 50)")

    many = lamps_plan(2000)
    given = given_by(many, assess(many, catalogue))
    ((_, source, drawn),) = netlists(given.catalogue, many.feeds, given.shelf, given.lamps, given.kinds, given.wanted)
    network = solver.Network([solver.Source("s", "plus", "0", source.volts, source.ohms), *drawn.net.elements])
    network.solve()
    say(f"wiring: 2,000 lamps told apart, one point: {median_ms(network.solve, 20):.1f} ms (asked 15)")

    proposals(plan, assessment)
    from gwiazda.core.assess.electrics.propose import _fewest

    def propose():
        _fewest.cache_clear()
        proposals(plan, assessment)

    say(f"wiring: proposals for 60 lamps: {median_ms(propose, 3) / 1e3:.2f} s (asked 2)")
    say(f"  all sources side by side for it: {median_ms(lambda: options_for(plan, assessment, 'supply'), 3):.0f} ms")
    moved = iter(edits.set_kit(plan, name=f"n{k}") for k in range(100))
    say(
        f"  its sheet of rails and rungs laid out: {median_ms(lambda: rails_of(next(moved), assessment, 850.0, 400.0), 9):.1f} ms"
    )

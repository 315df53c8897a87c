"""The plan's circuits taken out: a table as CSV, and the network in the form of the reference cases as JSON."""

from __future__ import annotations

import json
from typing import Any

from gwiazda.core.assess.electrics.netlist import MINUS, PLUS
from gwiazda.core.assess.electrics.stage import given_by, netlists
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit import network as solver
from gwiazda.core.circuit.exchange import element_to
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.circuit.series import bands
from gwiazda.core.plan.lookup import circuit_part
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.tables import Table

COLUMNS = (
    "what", "name", "part", "source", "string", "resistor_ohm", "bands", "wanted_ma", "current_ma", "fresh_ma", "volts", "light_share",
    "heat_mw",
)  # fmt: skip


def circuit_table(plan: Plan, assessment: Assessment) -> str:
    """Every lamp, its resistor, and every other part with what flows, as CSV with a heading row."""
    table = Table(COLUMNS)
    for s in assessment.lamps.values():
        branch = assessment.branches[s.branch]
        colours = " ".join(bands(s.resistor_ohm, plan.drawer.series)) if s.resistor_ohm > 0 else ""
        table.row((
            "lamp", name_of(plan, s.id), s.part, name_of(plan, s.feed), name_of(plan, s.branch), f"{s.resistor_ohm:.6g}", colours, f"{s.wanted_a * 1e3:.4g}", f"{s.current_a * 1e3:.4g}",
            f"{s.fresh_a * 1e3:.4g}", f"{s.forward_v:.4g}", f"{s.share:.4g}", f"{branch.resistor_w * 1e3:.4g}",
        ))  # fmt: skip
    for p in assessment.parts.values():
        node = circuit_part(plan, p.id)
        ohm = getattr(node, "ohm", None)
        table.row((
            p.kind, name_of(plan, p.id), p.part, name_of(plan, p.feed), "", f"{ohm:.6g}" if ohm else "", "", "", f"{p.current_a * 1e3:.4g}", f"{p.fresh_a * 1e3:.4g}",
            f"{p.volts:.4g}", "", f"{p.heat_w * 1e3:.4g}",
        ))  # fmt: skip
    return table.text()


def circuit_cases(plan: Plan, assessment: Assessment) -> list[dict[str, Any]]:
    """Each source with what hangs on it as a case of ``gwiazda verify``, its operating point as the answer."""
    given = given_by(plan, assessment)
    cases = []
    circuits = netlists(given.catalogue, plan.feeds, given.shelf, given.lamps, given.kinds, given.wanted)
    for feed, source, drawn in circuits:
        if source is None or not drawn.net.elements:
            continue
        network = solver.Network([solver.Source(feed.id, PLUS, MINUS, source.volts, source.ohms), *drawn.net.elements])
        answer = network.solve()
        cases.append({
            "name": feed.name or feed.id, "note": f"{plan.kit.name}: {source.part.name}", "vt": VT_300K, "ground": MINUS,
            "elements": [element_to(e) for e in network.elements],
            "solution": {"nodes": network.node_volts(answer), "currents": network.element_currents(answer)},
        })  # fmt: skip
    return cases


def circuit_json(plan: Plan, assessment: Assessment) -> str:
    """``circuit_cases`` as text."""
    return json.dumps(circuit_cases(plan, assessment), indent=1, ensure_ascii=False) + "\n"

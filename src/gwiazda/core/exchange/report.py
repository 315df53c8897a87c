"""The assessment in open forms: JSON for ``gwiazda check``, text for the terminal, the shopping list as CSV."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable
from typing import Any

from gwiazda.core.assess.assembly.materials import material_rows
from gwiazda.core.assess.fibres.lists import WASTE, bought_of
from gwiazda.core.assess.show.protoboards import bought_for, made_boards
from gwiazda.core.assess.states import Assessment, SupplyState
from gwiazda.core.circuit.series import bands
from gwiazda.core.findings.finding import Finding
from gwiazda.core.plan.edits import parts_of
from gwiazda.core.plan.lookup import string_of
from gwiazda.core.plan.model import Fuse, Load, Plan, Regulated, Resistor, Switch, Switched
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import format_current, format_resistance, format_scale
from gwiazda.core.tables import Table
from gwiazda.core.workshop.buying import buying
from gwiazda.core.workshop.workshop import Workshop


def _supply_dict(s: SupplyState) -> dict[str, Any]:
    return {
        "name": s.name, "nominal_v": s.nominal_v, "terminal_v": s.terminal_v, "draw_a": s.draw_a,
        "run_time_h": s.hours if math.isfinite(s.hours) else None,
    }  # fmt: skip


def _told(items: Iterable[Any], key: str, names: str, **other: Callable[[Any], Any]) -> dict[str, dict[str, Any]]:
    """Fields of items by what ``key`` says of each; ``other`` for those that are told otherwise than they are kept."""
    return {getattr(x, key): _of(x, names, **other) for x in items}


def _of(item: Any, names: str, **other: Callable[[Any], Any]) -> dict[str, Any]:
    """Fields of one item in the order named; ``name=field`` for one that is told by another name."""
    out: dict[str, Any] = {}
    for entry in names.split():
        name, _, field = entry.partition("=")
        value = other[name](item) if name in other else getattr(item, field or name)
        out[name] = list(value) if isinstance(value, tuple) else value
    return out


def as_dict(plan: Plan, assessment: Assessment, findings: tuple[Finding, ...]) -> dict[str, Any]:
    """Keys as documented in ``docs/check.md``. What is infinite or unknown is null."""
    wires = [r for r in assessment.loom.runs.values() if r.kind != "fibre"]
    return {
        "kit": {"name": plan.kit.name, "scale": format_scale(plan.kit.scale)},
        "meters": _told(assessment.meters, "id", "value unit state note"),
        "supply": _supply_dict(assessment.supply),
        "feeds": {key: _supply_dict(s) for key, s in assessment.feeds.items()},
        "parts": _told(
            assessment.parts.values(), "id", "kind part feed current_a fresh_a volts heat_w limit_a", limit_a=lambda p: p.limit_a or None
        ),
        "lamps": _told(
            assessment.lamps.values(), "id", "part section channel current_a wanted_a forward_v resistor_ohm flux_lm axial_cd"
        ),
        "sections": _told(
            assessment.sections.values(), "id",
            "luminance_cd_m2=mean_cd_m2 wanted_cd_m2 evenness mean_reflectance=reflectance flux_lm lit openings",
        ),
        "openings": _told(assessment.openings.values(), "id", "section luminance_cd_m2 hot_spot sight"),
        "leaks": [_of(x, "id kind section face luminance_cd_m2 times at coats") for x in assessment.leaks],
        "tips": _told(
            assessment.tips.values(), "id", "lamp channel length_mm cut_mm flux_lm cd wanted_cd creased losses",
            losses=lambda x: {k: v for k, v in x.loss._asdict().items() if not k.endswith("_lm")},
        ),
        "bundles": _told(assessment.bundles.values(), "lamp", "dots face_mm bundle_mm room_left=left fits"),
        "passages": _told(
            assessment.loom.passages.values(), "id", "wires fill comfortable fits wall_left_mm", wires=lambda p: len(p.runs)
        ),
        "wires": _told(wires, "id", "kind tag end part through cut_mm current_a ohm"),
        "findings": [
            _of(f, "rule severity subject also number sentence fixes", fixes=lambda f: [x.label for x in f.fixes]) for f in findings
        ],
    }  # fmt: skip


def as_text(plan: Plan, assessment: Assessment, findings: tuple[Finding, ...]) -> str:
    """The assessment for a terminal, 100 columns."""
    sign = {"fine": "ok  ", "look": "look", "stop": "STOP"}
    lines = [f"{plan.kit.name}, {format_scale(plan.kit.scale)} on {assessment.supply.name}", ""]
    for m in assessment.meters:
        lines.append(f"  {sign[m.state]}  {m.label:<16} {m.text:>8} {m.unit:<12} {m.note}")
    lines += ["", "  Section          windows lit   reached   wanted  cd/m²   evenness"]
    names = {s.id: s.name for s in plan.sections}
    for s in assessment.sections.values():
        even = f"{s.evenness:.2f}" if s.evenness is not None else "–"
        lines.append(
            f"  {names[s.id]:<16} {s.lit:>4} of {s.openings:<4} {s.mean_cd_m2:>9.3g} {s.wanted_cd_m2:>8.3g} {even:>16}"
        )
    lines += ["", "  Lamp                           current     resistor"]
    for lamp in assessment.lamps.values():
        lines.append(
            f"  {name_of(plan, lamp.id):<28} {format_current(lamp.current_a):>9} {format_resistance(lamp.resistor_ohm):>12}"
        )
    lines.append("")
    lines += [f"  {sign[f.severity]}  {f.sentence}" for f in findings] or ["  Nothing left to settle."]
    return "\n".join(lines) + "\n"


def shopping_rows(plan: Plan, assessment: Assessment) -> list[tuple[str, str, str, int, int]]:
    """Kind, part, detail, needed, and wanted (spares added, rounded up), grouped and sorted."""
    spare = plan.drawer.spare_share

    def with_spares(count: int) -> int:
        return count + math.ceil(count * spare - 1e-9)

    rows: list[tuple[str, str, str, int, int]] = []
    parts = assessment.catalogue.lamps
    # Colours of one body at one place are one lamp; a strip is bought by the unit.
    bodies: Counter[tuple[str, str]] = Counter()
    there: set[tuple[str, tuple[float, float, float]]] = set()
    for lamp in plan.lamps:
        body = parts[lamp.part].body if lamp.part in parts else ""
        if body and (body, lamp.at) in there:
            continue
        there.add((body, lamp.at))
        name = parts[lamp.part].name if lamp.part in parts else "not in the catalogue"
        bodies[(body, name.split(",")[0]) if body else (lamp.part, name)] += lamp.units
    for (part, name), count in sorted(bodies.items()):
        rows.append(("lamp", part, name, count, with_spares(count)))
    resistors = _resistors(plan, assessment)
    for ohm, count in sorted(Counter(o for o, _ in resistors).items()):
        watts = max(w for o, w in resistors if o == ohm)
        rating = "1/4 W" if watts <= 0.125 else ("1/2 W" if watts <= 0.25 else f"{math.ceil(2 * watts)} W")
        detail = f"{rating}, {plan.drawer.series}: {' '.join(bands(ohm, plan.drawer.series))}".rstrip(": ")
        rows.append(("resistor", format_resistance(ohm), detail, count, with_spares(count)))
    for (kind, part, detail), count in sorted(_others(plan, assessment).items()):
        rows.append((kind, part, detail, count, with_spares(count)))
    rows += _by_length(plan, assessment)
    rows += material_rows(assessment.catalogue, plan)
    supplies: Counter[str] = Counter()
    for feed in plan.feeds:
        source = assessment.catalogue.sources.get(feed.supply.part)
        battery = source is not None and source.kind == "battery"
        supplies[feed.supply.part] += feed.supply.in_series * feed.supply.in_parallel if battery else 1
    for part, count in supplies.items():
        source = assessment.catalogue.sources.get(part)
        rows.append(("supply", part, source.name if source else "not in the catalogue", count, count))
    return rows


def _by_length(plan: Plan, assessment: Assessment) -> list[tuple[str, str, str, int, int]]:
    """Fibre and wire by the metre, with a tenth for waste; sleeves and connectors with them."""
    c = assessment.catalogue
    rows = [
        ("fibre", b.fibre, f"{c.fibres[b.fibre].name}, metres", math.ceil(b.length_mm / 1000.0), b.metres)
        for b in bought_of(plan, assessment)
    ]
    wires: Counter[str] = Counter()
    for r in assessment.loom.runs.values():
        if r.kind != "fibre" and r.cut_mm:
            wires[r.part] += round(r.cut_mm)
    for part, mm in sorted(wires.items()):
        rows.append(
            (
                "wire",
                part,
                f"{c.wires[part].name}, metres",
                math.ceil(mm / 1000.0),
                math.ceil(mm * (1.0 + WASTE) / 1000.0),
            )
        )
    if plan.loom.insulate == "heat-shrink":
        for bore, count in sorted(Counter(j.sleeve_mm for j in assessment.loom.joints if j.sleeve_mm).items()):
            rows.append(
                (
                    "sleeve",
                    f"heat-shrink {bore:g} mm",
                    "2:1, some 10 mm each",
                    count,
                    count + math.ceil(count * plan.drawer.spare_share - 1e-9),
                )
            )
    for name, count in sorted(Counter(p.connector for p in plan.passages if p.connector).items()):
        rows.append(("connector", name, "plug and socket", count, count))
    return rows


def _resistors(plan: Plan, assessment: Assessment) -> list[tuple[float, float]]:
    """Every resistor there is to buy, with its heat (W): those of the trees one by one, those of lamps on their own, and
    the ones at the bases of stages."""
    out = [(r.resistor_ohm, r.resistor_w) for r in assessment.branches.values() if not r.resistor and r.resistor_ohm > 0 and len(r.lamps) == 1
           and string_of(plan, r.lamps[0]) is None]  # fmt: skip
    chosen = {r.resistor: r.resistor_ohm for r in assessment.branches.values() if r.resistor and r.chosen}
    for feed in plan.feeds:
        for x in parts_of(feed):
            state = assessment.parts.get(getattr(x, "id", ""))
            if isinstance(x, Resistor) and (ohm := x.ohm or chosen.get(x.id, 0.0)):
                out.append((ohm, state.heat_w if state is not None else 0.0))
            drive = assessment.catalogue.drives.get(x.part) if isinstance(x, Switched) else None
            if isinstance(x, Switched) and drive is not None and drive.kind == "npn" and x.ohm:
                out.append((x.ohm, 0.0))
    return out + [(ohm, 0.0) for board in made_boards(plan, assessment) for ohm in board.ohms]


def _others(plan: Plan, assessment: Assessment) -> Counter[tuple[str, str, str]]:
    """Fuses, switches, loads, regulators, stages, and diodes across motors, by kind, part and words."""
    c = assessment.catalogue
    out: Counter[tuple[str, str, str]] = Counter()
    for feed in plan.feeds:
        for x in parts_of(feed):
            if isinstance(x, Fuse):
                out["fuse", format_current(x.rated_a), "with its holder"] += 1
            elif isinstance(x, Switch):
                out["switch", x.kind, "with its magnet" if c.switch(x.kind).reach_mm else ""] += 1
            elif isinstance(x, Load):
                out["load", x.part, c.loads[x.part].name if x.part in c.loads else "not in the catalogue"] += 1
                if x.flyback:
                    out["diode", "small silicon diode", "across a motor, ring to plus"] += 1
            elif isinstance(x, Regulated):
                name = c.regulators[x.part].name if x.part in c.regulators else "not in the catalogue"
                out["regulator", x.part, f"{name}, {x.volts:g} V"] += 1
            elif isinstance(x, Switched) and x.part in c.drives and c.drives[x.part].kind != "pin":
                out["stage", x.part, c.drives[x.part].name] += 1
    for board in made_boards(plan, assessment):
        out.update(bought_for(board))
    return out


def shopping_csv(plan: Plan, assessment: Assessment, workshop: Workshop = Workshop()) -> str:  # noqa: B008 – a value
    """The shopping list as CSV with a heading row, against what is in the user's drawer."""
    table = Table(
        [
            "kind",
            "part",
            "detail",
            "needed",
            "with_spares",
            "in_drawer",
            "kept_for_others",
            "to_buy",
            "where",
            "packs",
            "cost",
        ]
    )
    for b in buying(shopping_rows(plan, assessment), workshop, plan.kit.name):
        more = [b.packs or "", f"{b.cost:.2f}" if b.price else ""]
        table.row(
            [b.kind, b.part, b.detail, b.needed, b.wanted, f"{b.held:g}", f"{b.elsewhere:g}", b.buy, b.where, *more]
        )
    return table.text()

"""Rules about clear shells: panes that are meant dark and show, lamps that sit on the wall and tint their neighbours."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.optics.glazed import pane_of
from gwiazda.core.assess.optics.shell import REACHES, dark_shares, is_shell, on_wall, shares_by_reach
from gwiazda.core.assess.optics.skin import lining_reflectance
from gwiazda.core.assess.sight.dark import dark_panes
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_NAMES, NORMALS, PLANES
from gwiazda.core.plan.lookup import item_of, lamp_of, lamps_by_section
from gwiazda.core.plan.model import Dot, Opening, Plan, Section
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure

STOP_TIMES = 30.0
FIBRE_MM = 8.0  # back from the wall: room for the bundle's first bend
OFF_MM = 3.0  # from the wall: there a lamp's light enters it as the room's does


def _shells(plan: Plan, assessment: Assessment) -> Iterator[tuple[Section, list[Opening]]]:
    for section in plan.sections:
        if is_shell(assessment.catalogue, section, plan.kit.material):
            yield section, [o for o in plan.openings if o.section == section.id and not o.into]


def dark_panes_show(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Panes of a clear shell that are meant dark and aren't."""
    every = dark_panes(assessment.catalogue, plan, assessment.openings)
    for section, panes in _shells(plan, assessment):
        times = {o.id: every[o.id] for o in panes if o.id in every}
        showing = [i for i, t in times.items() if t >= 1.0]
        if not showing:
            continue
        worst = max(showing, key=times.__getitem__)
        most = times[worst]
        yield Finding(
            "dark-pane-shows", "stop" if most >= STOP_TIMES else "look", "leak", worst, most,
            f"{section.name} is a clear shell: {counted(len(showing), 'pane')} meant dark still show{'s' if len(showing) == 1 else ''}. "
            f"{name_of(plan, worst)} is at {figure(most, 2)} × what the eye can pick out. Light goes round the black behind it, in the {section.wall_mm:g} mm wall.",
            (
                *_farther(plan, assessment, section, worst, most, showing),
                Fix("Paint them over outside", _set(showing, closed="outside")),
                *_off_the_wall(plan, section),
            ),
            _measured(plan, tuple(times)), " ×",
        )  # fmt: skip


def _farther(
    plan: Plan, assessment: Assessment, section: Section, worst: str, times: float, showing: list[str]
) -> tuple[Fix, ...]:
    """Black that reaches as far past the panes as it takes, or far; and clear panes, which take no light of all angles."""
    o = item_of(plan.openings, worst, "opening")
    lining = lining_reflectance(assessment.catalogue, section, plan.kit.material)
    pane = pane_of(assessment.catalogue, o, section, lining, plan.kit.material)
    now, *_ = dark_shares(assessment.catalogue, section, (o,), (pane,), plan.kit.material)
    for many, share in zip(
        REACHES, shares_by_reach(assessment.catalogue, section, o, pane, plan.kit.material), strict=True
    ):
        if now > 0 and times * share / now < 1.0:
            past = round(many * section.wall_mm, 1)
            return (Fix(f"Black that reaches {past:g} mm past them", _set(showing, reach_mm=past)),)
    far, near = round(REACHES[-1] * section.wall_mm, 1), section.wall_mm
    return (
        Fix(f"Black that reaches {far:g} mm past them", _set(showing, reach_mm=far)),
        Fix(f"Clear panes, black {near:g} mm past them", _set(showing, reach_mm=near, glazing="clear", soften=())),
    )


def _measured(plan: Plan, ids: tuple[str, ...]) -> Callable[[Assessment], float]:
    def measure(after: Assessment) -> float:
        times = dark_panes(after.catalogue, plan, after.openings)
        return max((times.get(i, 0.0) for i in ids), default=0.0)

    return measure


def _set(ids: list[str], **fields: object) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, ids, **fields)


def _sitting(plan: Plan, section: Section) -> dict[str, int]:
    """Lamps that sit on a section's wall with their light towards it, and the face."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    out = {}
    for p in plan.lamps:
        if homes.get(p.id) == section.id and (face := on_wall(section, p)) is not None:
            out[p.id] = face
    return out


def _off_the_wall(plan: Plan, section: Section) -> tuple[Fix, ...]:
    lamps = _sitting(plan, section)
    if not lamps:
        return ()

    def edit(plan: Plan) -> Plan:
        for lamp_id, face in lamps.items():
            normal = NORMALS[FACE_NAMES[face]]
            at = lamp_of(plan, lamp_id).at
            x, y, z = (a - OFF_MM * n for a, n in zip(at, normal, strict=True))
            plan = edits.set_fields(plan, [lamp_id], at=(x, y, z))
        return plan

    return (Fix(f"Lamps {OFF_MM:g} mm off the wall", edit),)


def _by_fibre(plan: Plan, section: Section, panes: list[Opening], sitting: dict[str, int]) -> tuple[Fix, ...]:
    """A fibre to the pane it was to light, and the lamp away from the wall: a fibre's light leaves at its tip alone."""
    if not any(o.lit > 0 for o in panes):
        return ()

    def edit(plan: Plan) -> Plan:
        for lamp_id in sitting:
            lamp = lamp_of(plan, lamp_id)
            o = min(
                (x for x in panes if x.lit > 0),
                key=lambda x: sum((a - b) ** 2 for a, b in zip(x.at, lamp.at, strict=True)),
            )
            way = NORMALS[o.side]
            at = tuple(
                min(max(a - FIBRE_MM * n, low + size / 8), low + size * 7 / 8)
                for a, n, low, size in zip(lamp.at, way, section.box.at, section.box.size, strict=True)
            )
            plan = edits.set_fields(plan, [lamp_id], at=at, mount="fibre", aim=tuple(float(n) for n in way))
            dot = Dot(
                id=edits.fresh_ids(plan, f"{section.id}.dot")[0], at=skin_of(section, o), side=o.side, section=section.id, lamp=lamp_id, pinned=True,
                channel=lamp.channel,
            )  # fmt: skip
            plan = edits.add_dots(plan, [dot])
            plan = edits.set_fields(plan, [o.id], lit=0.0, closed="outside")
        return plan

    return (Fix("A fibre instead, the lamp inside", edit),)


def skin_of(section: Section, o: Opening) -> tuple[float, float, float]:
    """The place of an opening on its section's outer skin."""
    h, v, _ = PLANES[o.side]
    return edits.skin_place(section, o.side, o.at[h], o.at[v])


def _sitting_in(plan: Plan, section_id: str) -> Callable[[Assessment], float]:
    """How many lamps sit on that section's wall still."""

    def measure(after: Assessment) -> float:
        section = next((s for s in plan.sections if s.id == section_id), None)
        return float(len(_sitting(plan, section))) if section is not None else 0.0

    return measure


def lamps_on_a_clear_wall(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp of another colour glued onto a clear wall tints the panes around it."""
    for section, panes in _shells(plan, assessment):
        sitting = _sitting(plan, section)
        if not sitting:
            continue
        homes = lamps_by_section(plan.sections, plan.lamps)
        colours = {
            assessment.lamps[i].colour for i, home in homes.items() if home == section.id and i in assessment.lamps
        }
        shares = {o.id: t for o in panes if o.lit > 0 and (t := assessment.openings.get(o.id)) is not None}
        if len(colours) < 2 or not shares:
            continue
        names = ", ".join(list(sitting)[:3])
        yield Finding(
            "lamp-on-clear-wall", "look", "pane", next(iter(sitting)), float(len(sitting)),
            f"{names} {'sits' if len(sitting) == 1 else 'sit'} on the clear wall of {section.name}, among lamps of other colours: the wall carries "
            "the light to the panes around.",
            (*_off_the_wall(plan, section), *_by_fibre(plan, section, panes, sitting)),
            _sitting_in(plan, section.id), "",
        )  # fmt: skip


SHELL_RULES = (dark_panes_show, lamps_on_a_clear_wall)

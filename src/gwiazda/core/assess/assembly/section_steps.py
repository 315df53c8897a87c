"""The steps of a section, from its bare part to its closing."""

from __future__ import annotations

from gwiazda.core.assess.assembly.contents import BODIES, Contents, mark_of
from gwiazda.core.assess.assembly.maker import Maker
from gwiazda.core.assess.assembly.step import WHOLE, Work
from gwiazda.core.assess.carriers.work import pieces_minutes
from gwiazda.core.assess.lamp.modified_lamp import front_mm
from gwiazda.core.assess.optics.lenses import dome_mm, width_mm
from gwiazda.core.assess.optics.skin import made_of
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.model import Layer
from gwiazda.core.plan.naming import name_of

THIN_MIN = 60.0  # a bought or printed part thinned from inside: about an hour a side
LIQUID_H = 12.0  # liquid glazing and clear resin


def section_steps(m: Maker, c: Contents) -> None:
    """All of a section up to its closing."""
    s, plan, effort = c.section, m.plan, m.plan.effort
    key = s.id
    painted_first = m.choice(c, "paint") == "before joining"
    glazed_first = m.choice(c, "glaze") == "before lamps"
    begun = m.add(key, "strip", [], of=mark_of(key)) if plan.orders.rebuild else None
    if c.order is not None and c.order.hand and not c.bare:
        # Before anything is cut into it: afterwards the two look alike and are not.
        begun = m.add(
            key, "handed", [begun], of=mark_of(c.order.hand), detail=f"{c.order.hand}: on a tag, and scratched inside"
        )
    cut = [o for o in s.obstacles if o.action != "keep" or o.thin_mm > 0]
    hours = sum(THIN_MIN if o.kind in BODIES and o.thin_mm > 0 else m.catalogue.work["obstacles"].each_min for o in cut)
    base = m.add(key, "obstacles", [begun], Work(len(cut), hours / max(len(cut), 1)), of=mark_of(cut), detail=", ".join(o.name or o.kind for o in cut)) if cut else begun  # fmt: skip
    hatch = s.closure.hatch
    if hatch is not None:
        words = f"{' × '.join(f'{x:g}' for x in hatch.size)} mm in the {FACE_WORDS[hatch.face]}, held by {hatch.by}; a lip of card behind its edge keeps the light in"
        base = m.add(key, "hatch", [base], Work(1), of=mark_of(hatch), detail=words)
    made = [w for w in c.passages if w.make != "as it is"]
    covered = [w for w in made if w.make == "channel" and w.cover]
    kind = made_of(m.catalogue, s, plan.kit.material)
    each = m.catalogue.work["passages"].each_min * kind.drill_times
    ways = (
        m.add(key, "passages", [base], Work(len(made), each, care=kind.care), of=mark_of(made), detail=kind.drilling)
        if made
        else base
    )
    panes = sum(o.hole or s.school != "drill" for o in c.openings)
    shapes = mark_of([(o.shape, o.width_mm, o.height_mm, o.at) for o in c.openings], s.school)
    if covered:
        ways = m.add(key, "channels", [ways], Work(len(covered)), of=mark_of(covered))
    opened = base
    if panes and s.school == "drill":
        # A round one is drilled; any other is drilled, then filed to its corners.
        round_ones = sum(o.hole and o.shape == "round" for o in c.openings)
        each = (round_ones * effort.hole_min + (panes - round_ones) * effort.drill_min) / panes
        field = "drill_min" if not round_ones else ("hole_min" if round_ones == panes else "")
        work = Work(panes, each * kind.drill_times, care=kind.care, field=field)
        opened = m.add(key, "open", [base], work, of=shapes, detail=kind.drilling)
    elif panes and s.school == "mask":
        opened = m.add(key, "mask", [base], Work(panes, effort.mask_min, field="mask_min"), of=shapes)
    drilled = [d for d in c.dots if d.hole == "drilled"]
    bored = len(drilled) + len(c.seen)
    holes = None
    if bored:
        of = mark_of([(d.at, d.fibre) for d in drilled], *([[(p.at, p.part) for p in c.seen]] if c.seen else []))
        words = "Drill for the lamps" + (" and fibres" if drilled else "") if c.seen else ""
        work = Work(bored, effort.hole_min * kind.drill_times, care=kind.care, field="hole_min")
        holes = m.add(key, "holes", [base, opened], work, of=of, detail=kind.drilling, called=words)
    clean = (
        m.add(key, "deburr", [base, ways, opened, holes], Work(panes + bored + len(made)))
        if (panes or bored or made)
        else base
    )
    blocked = m.coats(key, "block", s.inside, [clean]) or clean
    lining = _lining(m, c, blocked) if c.lit_inside else blocked
    patched = lining
    laid = [*s.patches, *(x for x in s.seams if x.bridged)]
    if laid:
        patched = m.add(key, "patch", [lining], Work(len(laid)), of=mark_of(laid))
    painted = m.coats(key, "paint", s.outside, [patched]) if painted_first else None
    if c.lit:
        _lights(m, c, painted or patched, holes, ways, glazed_first)
    elif panes:
        m.add(key, "glaze", [painted or patched], _glazed(m, c, panes), of=_glazing(c))
    _closing(m, c)


def _lining(m: Maker, c: Contents, before: str | None) -> str | None:
    s = c.section
    lining = m.catalogue.linings.get(s.lining)
    if lining is None or not lining.coat:
        return before
    coat = m.catalogue.coats.get(lining.coat)
    if coat is None or coat.kind != "paint":
        return m.add(s.id, "line", [before], Work(1, wait_h=0.0, number=1), of=mark_of(s.lining), detail=lining.name)
    return m.coats(s.id, "line", (Layer(coat=lining.coat, coats=s.lining_coats),), [before])


def _glazing(c: Contents) -> str:
    return mark_of(c.section.glazing, c.section.soften, [(o.glazing, o.soften, o.tints) for o in c.openings])


def _glazed(m: Maker, c: Contents, panes: int) -> Work:
    """Sheets are held by their glue in an hour; liquid glazing and resin set overnight."""
    used = {o.glazing or c.section.glazing for o in c.openings}
    liquid = any(g in m.catalogue.glazings and m.catalogue.glazings[g].bought == "liquid" for g in used)
    return Work(panes, wait_h=LIQUID_H * m.slow) if liquid else Work(panes)


def _lights(m: Maker, c: Contents, before: str | None, holes: str | None, ways: str | None, glazed_first: bool) -> None:
    """Glazing, lamps, fibres, wires, and their tests."""
    s, plan, effort = c.section, m.plan, m.plan.effort
    key, n = s.id, len(c.lamps)
    # Leads that come with a lamp spare the joint at it; a resistor in them spares another.
    known = [m.catalogue.lamps[p.part] for p in c.lamps if p.part in m.catalogue.lamps]
    joints = max(c.joints - sum(1 + bool(k.inner_ohm) for k in known if k.leads_mm), 0)
    panes = sum((o.hole or bool(o.glazing)) and o.lens is None for o in c.openings)
    parts = mark_of([(p.id, p.part, p.at, p.aim) for p in c.lamps])
    bench_first = plan.loom.bench_first
    soldered = m.add(key, "solder", [f"{WHOLE}:breadboard"], Work(joints, effort.joint_min, field="joint_min"), of=parts) if joints and bench_first else None  # fmt: skip
    glazed = m.add(key, "glaze", [before], _glazed(m, c, panes), of=_glazing(c)) if panes and glazed_first else None
    held = _carriers(m, c, before)
    lenses = _lenses(m, c, before)
    lamps = (
        m.add(
            key,
            "lamps",
            [before, glazed, soldered, held, lenses, holes],
            Work(n, effort.lamp_min, field="lamp_min"),
            of=parts,
        )
        if n
        else None
    )
    if joints and not bench_first:
        # In place: lit after every joint, which takes as long again as a joint half does.
        soldered = m.add(key, "solder", [lamps], Work(joints, effort.joint_min * 1.5, field="joint_min"), of=parts, detail=made_of(m.catalogue, s, plan.kit.material).joining)  # fmt: skip
    if panes and not glazed_first:
        glazed = m.add(key, "glaze", [before, lamps], _glazed(m, c, panes), of=_glazing(c))
    stopped = [p for p in c.seen if p.behind]
    putty = (
        m.add(key, "putty", [lamps, soldered], Work(len(stopped)), of=mark_of([(p.id, p.behind) for p in stopped]),
                 detail=", ".join(dict.fromkeys(f"{p.behind} behind {name_of(plan, p.id)}" for p in stopped)))
        if stopped
        else None
    )  # fmt: skip
    fibres = None
    if c.dots:
        fibres = m.add(key, "fibres", [before, holes, lamps], Work(len(c.dots), effort.dot_min, field="dot_min"), of=mark_of([(d.at, d.fibre, d.lamp) for d in c.dots]))  # fmt: skip
    wires = m.add(key, "wires", [lamps, soldered, ways], Work(2 * n), of=parts) if n else None
    label = m.add(key, "label", [wires], Work(2 * n), of=parts) if n else None
    test = m.add(
        key, "test", [label, fibres, lamps], Work(n + len(c.dots)), of=mark_of(parts, [d.lamp for d in c.dots])
    )
    skin = mark_of(s.inside, s.lining, s.patches, s.seams, s.wall_mm, parts)
    m.add(key, "leak", [test, glazed, lenses, putty], Work(1), of=skin)


def _carriers(m: Maker, c: Contents, before: str | None) -> str | None:
    """Cutting and gluing what holds the lamps; those of the kit are drilled alone."""
    if not c.carriers:
        return None
    work = [pieces_minutes(m.catalogue, k) for k in c.carriers]
    pieces, minutes = sum(n for n, _ in work), sum(m for _, m in work)
    named = ", ".join(k.name or k.form for k in c.carriers)
    return m.add(
        c.section.id,
        "carrier",
        [before],
        Work(pieces, minutes / max(pieces, 1)),
        of=mark_of(c.carriers),
        detail=named,
    )


def _lenses(m: Maker, c: Contents, before: str | None) -> str | None:
    """Lenses made and set; those that set in layers are waited for by the thickest."""
    known = m.catalogue.lenses
    mine = [(o.lens, width_mm(o)) for o in c.openings if o.lens is not None]
    mine += [(p.lens, front_mm(m.catalogue, p)) for p in c.seen if p.lens is not None and p.part in m.catalogue.lamps]
    made = [(lens, wide, known[lens.made]) for lens, wide in mine if lens.made in known]
    if not made:
        return None
    each = sum(part.each_min for _, _, part in made) / len(made)
    wait = max(part.wait_h + part.wait_h_mm * dome_mm(lens, wide, part) for lens, wide, part in made) * m.slow
    named = ", ".join(dict.fromkeys(part.name for _, _, part in made))
    return m.add(
        c.section.id,
        "lenses",
        [before],
        Work(len(made), each, wait),
        of=mark_of([lens for lens, _, _ in made]),
        detail=named,
    )


def _closing(m: Maker, c: Contents) -> None:
    """From the last tests to the closed section."""
    s = c.section
    key, by = s.id, s.closure.by
    if by == "open" or not (c.lit or c.openings):
        return
    ends = [f"{key}:{k}" for k in ("leak", "glaze", "fibres", "handed", "patch")]
    faces = m.add(key, "glue-faces", ends, of=mark_of(s.closure)) if by == "glue" else None
    tucked = m.add(key, "tuck", [f"{key}:leak", f"{key}:wires"], Work(2 * len(c.lamps))) if c.lamps else None
    everything = mark_of([p.id for p in c.lamps], [o.id for o in c.openings], [d.id for d in c.dots], s.obstacles)
    called = m.add(key, "roll-call", [*ends, faces, tucked], of=everything)
    glue = m.catalogue.adhesives.get(s.closure.glue) if by == "glue" else None
    wait = (glue.next_h if glue is not None else 4.0) * m.slow if by == "glue" else 0.0
    how = f"{s.closure.part or 'its lid'} by {s.closure.glue or by or 'what holds it'}"
    closed = m.add(key, "close", [called], Work(wait_h=wait), of=mark_of(s.closure), detail=how)
    if by == "glue":
        m.add(key, "seam", [closed], of=mark_of(s.closure))

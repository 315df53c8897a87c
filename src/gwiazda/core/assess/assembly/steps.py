"""Steps from the plan: what is to be done to each section and to the whole, how long, after what."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from gwiazda.core.assess.assembly.contents import BODIES, Contents, contents_of, mark_of, outside_lamps
from gwiazda.core.assess.carriers.work import pieces_minutes
from gwiazda.core.assess.lamp.modified_lamp import front_mm
from gwiazda.core.assess.optics.leaks import BLOCK_COAT
from gwiazda.core.assess.optics.lenses import dome_mm, width_mm
from gwiazda.core.assess.optics.skin import made_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.lookup import joints_by_lamp
from gwiazda.core.plan.model import EveningSettings, Layer, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.schedule.graph import Task

TESTS = ("test", "leak", "roll-call", "final")  # a section isn't closed while one of its own is open
GATES = ("test", "leak", "roll-call")
THIN_MIN = 60.0  # a bought or printed part thinned from inside: about an hour a side
WHOLE = ""  # the section of steps that belong to the whole kit


class Step(NamedTuple):
    """A step: ``key`` is ``section:kind`` or ``section:kind.n`` for coats; ``many`` is what its minutes count; ``of`` marks
    what it is done to; ``detail`` says what to do it with."""

    key: str
    kind: str
    name: str
    section: str
    minutes: float
    wait_h: float
    needs: tuple[str, ...]
    many: int = 0
    of: str = ""
    detail: str = ""
    own: bool = False
    arrives: str = ""
    care: str = ""  # which caution of the catalogue belongs to it

    @property
    def is_test(self) -> bool:
        return self.kind in TESTS


def slower(bench: EveningSettings) -> float:
    """How much longer things dry than at 20 °C: twice for each 10 K colder, half as long again where it is damp."""
    return float(2.0 ** ((20.0 - bench.air_c) / 10.0) * (1.5 if bench.damp else 1.0))


class Work(NamedTuple):
    """How much there is to do: pieces, minutes for each and hours to wait where they aren't the usual ones; the number of a coat; its caution."""

    pieces: int = 0
    each_min: float | None = None
    wait_h: float | None = None
    number: int = 0
    care: str = ""  # where it isn't the usual one


class _Maker:
    """Puts the steps of one plan together."""

    def __init__(self, catalogue: Catalogue, plan: Plan) -> None:
        self.catalogue, self.plan = catalogue, plan
        self.steps: dict[str, Step] = {}
        self.slow = slower(plan.bench)
        self.contents = contents_of(plan)
        self.late = {k for k, c in self.contents.items() if c.order is not None and c.order.late}

    def add(
        self, section: str, kind: str, needs: Sequence[str | None], work: Work = Work(), of: str = "", detail: str = "",  # noqa: B008
        called: str = "",
    ) -> str:  # fmt: skip
        """A step; what it needs and there is no step for is left out. Returns its key."""
        count, each_min, wait_h, number, care = work
        usual = self.catalogue.work[kind]
        key = f"{section}:{kind}" + (f".{number}" if number else "")
        each = usual.each_min if each_min is None else each_min
        alike = self.plan.bench.alike
        # Kits alike are built in one go: what is set up once serves all, what has no pieces is done to each.
        minutes = usual.set_min + alike * count * each if count * each else alike * usual.set_min
        count *= alike
        wait = usual.wait_h * (self.slow if usual.wait_h else 1.0) if wait_h is None else wait_h
        wanted = tuple(dict.fromkeys(n for n in needs if n and n in self.steps))
        name = (called or usual.name) + (f", coat {number}" if number else "")
        self.steps[key] = Step(
            key,
            kind,
            name,
            section,
            round(minutes, 1),
            round(wait, 2),
            wanted,
            count,
            of,
            detail,
            care=care or usual.care,
        )
        return key

    def coats(self, section: str, kind: str, layers: Sequence[Layer], needs: Sequence[str | None]) -> str | None:
        """A step for each coat, one after another as they dry; the last one's key."""
        last, number = None, 0
        for layer in layers:
            coat = self.catalogue.coats.get(layer.coat)
            for _ in range(layer.coats):
                number += 1
                wait = (coat.dry_h if coat is not None else 12.0) * self.slow
                detail = coat.name if coat is not None else layer.coat
                wanted = needs if last is None else [last]
                last = self.add(
                    section, kind, wanted, Work(1, wait_h=wait, number=number), of=mark_of(kind, layer), detail=detail
                )
        return last

    # -- a section ----------------------------------------------------------------------------------------

    def section(self, c: Contents) -> None:
        """All of a section up to its closing."""
        s, plan, effort = c.section, self.plan, self.plan.effort
        key = s.id
        painted_first = self._choice(c, "paint") == "before joining"
        glazed_first = self._choice(c, "glaze") == "before lamps"
        begun = self.add(key, "strip", [], of=mark_of(key)) if plan.orders.rebuild else None
        cut = [o for o in s.obstacles if o.action != "keep" or o.thin_mm > 0]
        hours = sum(
            THIN_MIN if o.kind in BODIES and o.thin_mm > 0 else self.catalogue.work["obstacles"].each_min for o in cut
        )
        base = self.add(key, "obstacles", [begun], Work(len(cut), hours / max(len(cut), 1)), of=mark_of(cut), detail=", ".join(o.name or o.kind for o in cut)) if cut else begun  # fmt: skip
        hatch = s.closure.hatch
        if hatch is not None:
            words = f"{' × '.join(f'{x:g}' for x in hatch.size)} mm in the {FACE_WORDS[hatch.face]}, held by {hatch.by}; a lip of card behind its edge keeps the light in"
            base = self.add(key, "hatch", [base], Work(1), of=mark_of(hatch), detail=words)
        made = [w for w in c.passages if w.make != "as it is"]
        covered = [w for w in made if w.make == "channel" and w.cover]
        kind = made_of(self.catalogue, s, plan.kit.material)
        each = self.catalogue.work["passages"].each_min * kind.drill_times
        ways = (
            self.add(
                key, "passages", [base], Work(len(made), each, care=kind.care), of=mark_of(made), detail=kind.drilling
            )
            if made
            else base
        )
        panes = sum(o.hole or s.school != "drill" for o in c.openings)
        shapes = mark_of([(o.shape, o.width_mm, o.height_mm, o.at) for o in c.openings], s.school)
        if covered:
            ways = self.add(key, "channels", [ways], Work(len(covered)), of=mark_of(covered))
        opened = base
        if panes and s.school == "drill":
            opened = self.add(key, "open", [base], Work(panes, effort.drill_min * kind.drill_times, care=kind.care), of=shapes, detail=kind.drilling)  # fmt: skip
        elif panes and s.school == "mask":
            opened = self.add(key, "mask", [base], Work(panes, effort.mask_min), of=shapes)
        drilled = [d for d in c.dots if d.hole == "drilled"]
        bored = len(drilled) + len(c.seen)
        holes = None
        if bored:
            of = mark_of([(d.at, d.fibre) for d in drilled], *([[(p.at, p.part) for p in c.seen]] if c.seen else []))
            words = "Drill for the lamps" + (" and fibres" if drilled else "") if c.seen else ""
            work = Work(bored, effort.drill_min * kind.drill_times, care=kind.care)
            holes = self.add(key, "holes", [base, opened], work, of=of, detail=kind.drilling, called=words)
        clean = (
            self.add(key, "deburr", [base, ways, opened, holes], Work(panes + bored))
            if (panes or bored or made)
            else base
        )
        if c.order is not None and c.order.hand:
            self.add(key, "handed", [clean], of=mark_of(c.order.hand), detail=f"{c.order.hand}: on a tag, and inside")
        blocked = self.coats(key, "block", s.inside, [clean]) or clean
        lining = self._lining(c, blocked) if c.lit_inside else blocked
        patched = lining
        laid = [*s.patches, *(x for x in s.seams if x.bridged)]
        if laid:
            patched = self.add(key, "patch", [lining], Work(len(laid)), of=mark_of(laid))
        painted = self._paint(c, [patched]) if painted_first else None
        if c.lit:
            self._lights(c, painted or patched, holes, ways, glazed_first)
        elif panes:
            self.add(key, "glaze", [painted or patched], Work(panes), of=self._glazing(c))
        self._closing(c)

    def _choice(self, c: Contents, name: str) -> str:
        own = getattr(c.order, name) if c.order is not None else ""
        return str(own or getattr(self.plan.orders, name))

    def _lining(self, c: Contents, before: str | None) -> str | None:
        s = c.section
        lining = self.catalogue.linings.get(s.lining)
        if lining is None or not lining.coat:
            return before
        coat = self.catalogue.coats.get(lining.coat)
        if coat is None or coat.kind != "paint":
            return self.add(
                s.id, "line", [before], Work(1, wait_h=0.0, number=1), of=mark_of(s.lining), detail=lining.name
            )
        return self.coats(s.id, "line", (Layer(coat=lining.coat, coats=s.lining_coats),), [before])

    def _glazing(self, c: Contents) -> str:
        return mark_of(c.section.glazing, c.section.soften, [(o.glazing, o.soften, o.tints) for o in c.openings])

    def _lights(self, c: Contents, before: str | None, holes: str | None, ways: str | None, glazed_first: bool) -> None:
        """Glazing, lamps, fibres, wires, and their tests."""
        s, plan, effort = c.section, self.plan, self.plan.effort
        key, n = s.id, len(c.lamps)
        # Leads that come with a lamp spare the joint at it; a resistor in them spares another.
        known = [self.catalogue.lamps[p.part] for p in c.lamps if p.part in self.catalogue.lamps]
        joints = max(c.joints - sum(1 + bool(k.inner_ohm) for k in known if k.leads_mm), 0)
        panes = sum((o.hole or bool(o.glazing)) and o.lens is None for o in c.openings)
        parts = mark_of([(p.id, p.part, p.at, p.aim) for p in c.lamps])
        bench_first = plan.loom.bench_first
        soldered = self.add(key, "solder", [f"{WHOLE}:breadboard"], Work(joints, effort.joint_min), of=parts) if joints and bench_first else None  # fmt: skip
        glazed = self.add(key, "glaze", [before], Work(panes), of=self._glazing(c)) if panes and glazed_first else None
        held = self._carriers(c, before)
        lenses = self._lenses(c, before)
        lamps = (
            self.add(key, "lamps", [before, glazed, soldered, held, lenses, holes], Work(n, effort.lamp_min), of=parts)
            if n
            else None
        )
        if joints and not bench_first:
            # In place: lit after every joint, which takes as long again as a joint half does.
            soldered = self.add(key, "solder", [lamps], Work(joints, effort.joint_min * 1.5), of=parts, detail=made_of(self.catalogue, s, plan.kit.material).joining)  # fmt: skip
        if panes and not glazed_first:
            glazed = self.add(key, "glaze", [before, lamps], Work(panes), of=self._glazing(c))
        stopped = [p for p in c.seen if p.behind]
        putty = (
            self.add(key, "putty", [lamps, soldered], Work(len(stopped)), of=mark_of([(p.id, p.behind) for p in stopped]),
                     detail=", ".join(dict.fromkeys(f"{p.behind} behind {name_of(plan, p.id)}" for p in stopped)))
            if stopped
            else None
        )  # fmt: skip
        fibres = None
        if c.dots:
            fibres = self.add(key, "fibres", [before, holes, lamps], Work(len(c.dots), effort.dot_min), of=mark_of([(d.at, d.fibre, d.lamp) for d in c.dots]))  # fmt: skip
        wires = self.add(key, "wires", [lamps, soldered, ways], Work(2 * n), of=parts) if n else None
        label = self.add(key, "label", [wires], Work(2 * n), of=parts) if n else None
        test = self.add(
            key, "test", [label, fibres, lamps], Work(n + len(c.dots)), of=mark_of(parts, [d.lamp for d in c.dots])
        )
        skin = mark_of(s.inside, s.lining, s.patches, s.seams, s.wall_mm, parts)
        self.add(key, "leak", [test, glazed, lenses, putty], Work(1), of=skin)

    def _carriers(self, c: Contents, before: str | None) -> str | None:
        """Cutting and gluing what holds the lamps; those of the kit are drilled alone."""
        if not c.carriers:
            return None
        work = [pieces_minutes(self.catalogue, k) for k in c.carriers]
        pieces, minutes = sum(n for n, _ in work), sum(m for _, m in work)
        named = ", ".join(k.name or k.form for k in c.carriers)
        return self.add(
            c.section.id,
            "carrier",
            [before],
            Work(pieces, minutes / max(pieces, 1)),
            of=mark_of(c.carriers),
            detail=named,
        )

    def _lenses(self, c: Contents, before: str | None) -> str | None:
        """Lenses made and set; those that set in layers are waited for by the thickest."""
        known = self.catalogue.lenses
        mine = [(o.lens, width_mm(o)) for o in c.openings if o.lens is not None]
        mine += [
            (p.lens, front_mm(self.catalogue, p))
            for p in c.seen
            if p.lens is not None and p.part in self.catalogue.lamps
        ]
        made = [(lens, wide, known[lens.made]) for lens, wide in mine if lens.made in known]
        if not made:
            return None
        each = sum(part.each_min for _, _, part in made) / len(made)
        wait = max(part.wait_h + part.wait_h_mm * dome_mm(lens, wide, part) for lens, wide, part in made) * self.slow
        named = ", ".join(dict.fromkeys(part.name for _, _, part in made))
        return self.add(
            c.section.id,
            "lenses",
            [before],
            Work(len(made), each, wait),
            of=mark_of([lens for lens, _, _ in made]),
            detail=named,
        )

    def _closing(self, c: Contents) -> None:
        """From the last tests to the closed section."""
        s = c.section
        key, by = s.id, s.closure.by
        if by == "open" or not (c.lit or c.openings):
            return
        ends = [f"{key}:{k}" for k in ("leak", "glaze", "fibres", "handed", "patch")]
        faces = self.add(key, "glue-faces", ends, of=mark_of(s.closure)) if by == "glue" else None
        tucked = self.add(key, "tuck", [f"{key}:leak", f"{key}:wires"], Work(2 * len(c.lamps))) if c.lamps else None
        everything = mark_of([p.id for p in c.lamps], [o.id for o in c.openings], [d.id for d in c.dots], s.obstacles)
        called = self.add(key, "roll-call", [*ends, faces, tucked], of=everything)
        glue = self.catalogue.adhesives.get(s.closure.glue) if by == "glue" else None
        wait = (glue.next_h if glue is not None else 4.0) * self.slow if by == "glue" else 0.0
        how = f"{s.closure.part or 'its lid'} by {s.closure.glue or by or 'what holds it'}"
        closed = self.add(key, "close", [called], Work(wait_h=wait), of=mark_of(s.closure), detail=how)
        if by == "glue":
            self.add(key, "seam", [closed], of=mark_of(s.closure))

    # -- the whole ----------------------------------------------------------------------------------------

    def _paint(self, c: Contents, needs: Sequence[str | None]) -> str | None:
        return self.coats(c.section.id, "paint", c.section.outside, needs)

    def whole(self) -> None:
        """What is done to the kit as a whole, after its sections or before them."""
        plan = self.plan
        closed = {k: self._last(k, ("seam", "close", "leak", "glaze")) for k in self.contents}
        together = [closed[k] for k, c in self.contents.items() if k not in self.late and self._choice(c, "paint") == "after joining"]  # fmt: skip
        bare = None
        if plan.orders.bare:
            bare = self.add(WHOLE, "bare", [closed[k] for k in self.contents if k not in self.late])
        for key, c in self.contents.items():
            s = c.section
            if self._choice(c, "paint") == "after joining" and s.outside:
                needs: list[str | None] = [closed[key], bare, *(together if key not in self.late else [])]
                if c.openings and s.school == "drill":
                    needs = [self.add(key, "cover", needs, Work(len(c.openings)))]
                self._paint(c, needs)
            painted = self._last(key, ("paint",)) or closed[key]
            if c.openings and s.school == "mask":
                self.add(key, "unmask", [painted, closed[key]], Work(len(c.openings)))
            elif c.openings and s.school == "scratch":
                self.add(key, "scratch", [painted, closed[key]], Work(len(c.openings), plan.effort.scratch_min))
            trimmed = [d for d in c.dots if d.trim == "after painting"]
            if trimmed:
                self.add(key, "trim", [painted, f"{key}:fibres"], Work(len(trimmed)))
        ends = [self._last(k, ("trim", "unmask", "scratch", "paint", "seam", "close", "leak", "glaze")) for k in self.contents]  # fmt: skip
        joined: list[str | None] = []
        for key in self.contents:
            if key in self.late:
                others = [e for k, e in zip(self.contents, ends, strict=True) if k not in self.late]
                joined.append(self.add(key, "join", [closed[key], *others], detail="pushed in from outside, ready"))
        outside = outside_lamps(plan)
        if outside:
            parts = mark_of([(p.id, p.part, p.at) for p in outside])
            holes = self.add(
                WHOLE,
                "holes",
                [],
                Work(len(outside), plan.effort.drill_min),
                of=parts,
                called="Drill for the lamps outside",
            )
            joints = sum(joints_by_lamp(plan.feeds).get(p.id, 0) for p in outside)
            soldered = self.add(WHOLE, "solder", [f"{WHOLE}:breadboard"], Work(joints, plan.effort.joint_min), of=parts, called="Solder the lamps outside") if joints else None  # fmt: skip
            set_ = self.add(WHOLE, "lamps", [holes, soldered, *ends], Work(len(outside), plan.effort.lamp_min), of=parts, called="Set the lamps outside")  # fmt: skip
            self.add(WHOLE, "test", [set_], Work(len(outside)), of=parts)
        last = [*ends, *joined, f"{WHOLE}:test"]
        base = f"{WHOLE}:base"
        if plan.orders.base == "last":
            sources = (self.catalogue.sources.get(f.supply.part) for f in plan.feeds)
            charging = " ".join(dict.fromkeys(s.charging for s in sources if s is not None and s.charging))
            base = self.add(WHOLE, "base", last, of=mark_of([f.supply for f in plan.feeds]), detail=charging)
        connected = self.add(
            WHOLE, "connect", [base, *last], Work(len(plan.feeds)), of=mark_of([f.id for f in plan.feeds])
        )
        self.add(WHOLE, "final", [connected, *last], of=mark_of([p.id for p in plan.lamps]))

    def _last(self, section: str, kinds: Sequence[str]) -> str | None:
        """The last of a section's steps of the first kind that it has."""
        for kind in kinds:
            mine = [k for k, s in self.steps.items() if s.section == section and s.kind == kind]
            if mine:
                return mine[-1]
        return None

    def begin(self) -> None:
        """What comes before all sections."""
        if self.plan.orders.circuit == "breadboard first" and self.plan.lamps:
            lamps = mark_of([(p.id, p.part) for p in self.plan.lamps])
            self.add(WHOLE, "breadboard", [], Work(len(self.plan.lamps)), of=lamps)
        if self.plan.orders.base == "first":
            self.add(WHOLE, "base", [], of=mark_of([f.supply for f in self.plan.feeds]))

    def mends(self) -> Iterator[Step]:
        """What failed tests put before them: to mend what they found."""
        work = self.catalogue.work["mend"]
        for key, number in failures(self.plan).items():
            test = self.steps.get(key)
            if test is not None:
                wait = self._coat_h() if test.kind == "leak" else work.wait_h
                yield Step(
                    f"{key}.mend.{number}", "mend", f"{work.name}: {test.name.lower()}", test.section, work.set_min, round(wait, 2),
                    test.needs, detail=next((d.note for d in reversed(self.plan.done) if d.step == key), ""),
                )  # fmt: skip

    def _coat_h(self) -> float:
        """How long a coat of the light block takes to dry."""
        return self.catalogue.coats[BLOCK_COAT].dry_h * self.slow

    def own(self) -> Iterator[Step]:
        """Steps of one's own, and all others with what own ones come before."""
        before: dict[str, list[str]] = {}
        keys = set(self.steps) | {f"own:{o.id}" for o in self.plan.own_steps}
        for o in self.plan.own_steps:
            for k in o.before:
                before.setdefault(k, []).append(f"own:{o.id}")
        for key, number in failures(self.plan).items():
            before.setdefault(key, []).append(f"{key}.mend.{number}")
        for step in self.steps.values():
            extra = tuple(before.get(step.key, ()))
            yield step._replace(needs=(*step.needs, *extra)) if extra else step
        yield from self.mends()
        for o in self.plan.own_steps:
            key = f"own:{o.id}"
            needs = (*(k for k in o.after if k in keys), *before.get(key, ()))
            yield Step(key, "own", o.name, o.section, o.minutes, o.wait_h, needs, 0, "", "", True, o.arrives)


def failures(plan: Plan) -> dict[str, int]:
    """Tests that failed when they were last done, and how often they have."""
    last = {d.step: d.result for d in plan.done}
    return {
        key: sum(d.step == key and d.result == "failed" for d in plan.done)
        for key, result in last.items()
        if result == "failed"
    }


@memoize(slots=2)
def _steps(catalogue: Catalogue, plan: Plan) -> tuple[Step, ...]:
    maker = _Maker(catalogue, plan)
    maker.begin()
    for c in maker.contents.values():
        maker.section(c)
    if plan.sections or plan.lamps:
        maker.whole()
    return tuple(maker.own())


def steps_of(catalogue: Catalogue, plan: Plan) -> tuple[Step, ...]:
    """All steps of a plan, each after what it needs where none of one's own says otherwise."""
    return _steps(catalogue, plan)


def tasks_of(steps: Sequence[Step], arrives_min: dict[str, float] | None = None) -> list[Task]:
    """Steps as the schedule wants them; ``arrives_min``: not before, by date."""
    arrives = arrives_min or {}
    return [
        Task(s.key, s.minutes, s.wait_h * 60.0, s.needs, arrives.get(s.arrives, 0.0) if s.arrives else 0.0)
        for s in steps
    ]

"""The steps of one plan being put together: each with its minutes, what it waits for, the caution that belongs to it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gwiazda.core.assess.assembly.contents import Contents, contents_of, mark_of
from gwiazda.core.assess.assembly.step import WHOLE, Step, Work, slower
from gwiazda.core.assess.optics.leaks import BLOCK_COAT
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Layer, Plan

JOINED_SHARE = 0.25  # of a part's minutes: what one more of a joined model takes to spray
UNKNOWN_H = 12.0  # a paint that nobody knows


class Maker:
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
        count, each_min, wait_h, number, care, again_h, field = work
        usual = self.catalogue.work[kind]
        key = f"{section}:{kind}" + (f".{number}" if number else "")
        each = usual.each_min if each_min is None else each_min
        alike = self.plan.bench.alike
        # Kits alike are built in one go: what is set up once serves all, what has no pieces is done to each.
        minutes = usual.set_min + alike * count * each if count * each else alike * usual.set_min
        wait = usual.wait_h * (self.slow if usual.wait_h else 1.0) if wait_h is None else wait_h
        wanted = tuple(dict.fromkeys(n for n in needs if n and n in self.steps))
        name = (called or usual.name) + (f", coat {number}" if number else "")
        session = self.catalogue.sessions.get(usual.session)
        self.steps[key] = Step(
            key, kind, name, section, round(minutes, 1), round(wait, 2), wanted, count * alike, of, detail,
            care=care or usual.care, session=usual.session, again_h=None if again_h is None else round(again_h, 2), field=field,
            set_up_min=session.set_min if session else 0.0, set_up_again_min=(session.again_min or session.set_min) if session else 0.0,
        )  # fmt: skip
        return key

    def coats(self, section: str, kind: str, layers: Sequence[Layer], needs: Sequence[str | None]) -> str | None:
        """A step for each coat, one after another as they dry; the last one's key."""
        last = None
        for number, layer in enumerate((x for x in layers for _ in range(x.coats)), 1):
            last = self.coat(section, kind, [layer], number, needs if last is None else [last])
        return last

    def coat(
        self, section: str, kind: str, layers: Sequence[Layer], number: int, needs: Sequence[str | None], joined: bool = False
    ) -> str:  # fmt: skip
        """A coat on one part, or on several in one go, each of its own paint: the slowest is waited for. Parts that are ``joined`` already are held and
        turned as one."""
        known = [self.catalogue.coats.get(x.coat) for x in layers]
        dry, again = 0.0, 0.0
        for coat in known:
            slow = slower(self.plan.bench, coat is None or coat.water)
            dry = max(dry, (coat.dry_h if coat is not None else UNKNOWN_H) * slow)
            again = max(again, ((coat.next_h or coat.dry_h) if coat is not None else UNKNOWN_H) * slow)
        names = dict.fromkeys(c.name if c is not None else x.coat for c, x in zip(known, layers, strict=True))
        each = self.catalogue.work[kind].each_min
        each = each * (1.0 + JOINED_SHARE * (len(layers) - 1)) / len(layers) if joined and layers else each
        work = Work(len(layers), each, dry, number, again_h=again)
        return self.add(section, kind, needs, work, of=mark_of(kind, *layers), detail=", ".join(names))

    def await_(self, key: str, needs: Sequence[str]) -> None:
        """Have a step wait for more; for those that there are."""
        step = self.steps.get(key)
        if step is not None:
            more = tuple(n for n in needs if n in self.steps and n not in step.needs)
            self.steps[key] = step._replace(needs=(*step.needs, *more))

    def choice(self, c: Contents, name: str) -> str:
        """An order chosen for a section, or else for the kit."""
        own = getattr(c.order, name) if c.order is not None else ""
        return str(own or getattr(self.plan.orders, name))

    def last(self, section: str, kinds: Sequence[str]) -> str | None:
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
        coat = self.catalogue.coats[BLOCK_COAT]
        return coat.dry_h * slower(self.plan.bench, coat.water)

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
            like = self.catalogue.work.get(o.kind)
            session = self.catalogue.sessions.get(like.session) if like is not None else None
            yield Step(
                key, "own", o.name, o.section, o.minutes, o.wait_h, needs, own=True, arrives=o.arrives, care=like.care if like is not None else "",
                session=session.id if session is not None else "", set_up_min=session.set_min if session is not None else 0.0,
                set_up_again_min=(session.again_min or session.set_min) if session is not None else 0.0,
            )  # fmt: skip


def failures(plan: Plan) -> dict[str, int]:
    """Tests that failed when they were last done, and how often they have."""
    last = {d.step: d.result for d in plan.done}
    return {
        key: sum(d.step == key and d.result == "failed" for d in plan.done)
        for key, result in last.items()
        if result == "failed"
    }

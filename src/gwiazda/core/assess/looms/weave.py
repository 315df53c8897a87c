"""The wires of a plan and their ways: leads, jumpers, trunks from hubs, spares, fibres from section to section."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.looms.lines import lines_of
from gwiazda.core.assess.looms.outcome import LONGER, TAIL_MM, Meeting, joints_of, ohms_of_wires, passages_of
from gwiazda.core.assess.looms.ways import Strand, fibre_routes, routed, source_place, strands_of, valid_way, ways_of
from gwiazda.core.assess.states import NO_LOOM, LoomState, WireRun
from gwiazda.core.circuit.parts.wire import limit_a, ohm_per_m
from gwiazda.core.loom.fill import area_mm2
from gwiazda.core.loom.routes import Place, Run
from gwiazda.core.memo import memoize, same_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import WirePart
from gwiazda.core.plan.lookup import housed
from gwiazda.core.plan.model import Feed, Hub, Lamp, Lead, Loom, Passage, Plan, Section

STEP_MM = 5.0


class Woven(NamedTuple):
    """What a loom reads of a plan."""

    sections: tuple[Section, ...]
    lamps: tuple[Lamp, ...]
    feeds: tuple[Feed, ...]
    passages: tuple[Passage, ...]
    hubs: tuple[Hub, ...]
    leads: tuple[Lead, ...]
    loom: Loom


class _Need(NamedTuple):
    """A wire to be laid, before its way is known."""

    id: str
    kind: str
    lamps: tuple[str, ...]
    end: str
    net: str
    start: str
    start_at: Place
    goal: str
    goal_at: Place | None
    current_a: float
    part: WirePart
    tag: str
    colour: str
    lead: Lead | None = None
    own_mm: float = 0.0


def loom_of(catalogue: Catalogue, plan: Plan, lamps: tuple[Lamp, ...], wanted_a: Mapping[str, float]) -> LoomState:
    """The loom of a plan at the currents wanted (A by lamp); empty without passages or with a wire the catalogue hasn't got."""
    if not plan.passages or plan.loom.wire not in catalogue.wires:
        return NO_LOOM
    given = Woven(plan.sections, lamps, plan.feeds, plan.passages, plan.hubs, plan.leads, plan.loom)
    return _loom(catalogue, given, tuple(wanted_a[p.id] for p in lamps), strands_of(plan.dots))


@memoize(slots=4, same=same_value)
def _loom(catalogue: Catalogue, given: Woven, wanted_a: tuple[float, ...], strands: tuple[Strand, ...]) -> LoomState:
    return _Weaver(catalogue, given, dict(zip((p.id for p in given.lamps), wanted_a, strict=True)), strands).state()


def _meetings(hubs: Sequence[Hub], passages: Sequence[Passage]) -> list[Meeting]:
    """Where wires meet: hubs, and both ends of tubes that carry current."""
    out = [Meeting(h.id, h.section, h.at) for h in hubs]
    for p in passages:
        if p.tube is not None and p.tube.conductor:
            out += [Meeting(p.id, room, _end_in(p, room), 1) for room in (p.section, p.into)]
    return out


class _Weaver:
    def __init__(
        self, catalogue: Catalogue, given: Woven, wanted_a: Mapping[str, float], strands: tuple[Strand, ...]
    ) -> None:
        self.catalogue, self.given, self.wanted_a = catalogue, given, wanted_a
        self.strands = {s.id: s for s in strands}
        self.led = fibre_routes(given.passages, given.sections, given.lamps, strands)
        self.lamps = {p.id: p for p in given.lamps}
        self.home = housed(given.sections, given.lamps)
        self.passages = {p.id: p for p in given.passages}
        self.ways = ways_of(given.passages)
        self.leads: dict[tuple[str, str], Lead] = {(x.lamp, x.end): x for x in reversed(given.leads)}
        self.wire = catalogue.wires[given.loom.wire]
        self.lines, self.ties = lines_of(catalogue, given.feeds, given.lamps)
        self.hubs = [h for h in given.hubs if any(h.section == s.id for s in given.sections)]

    # -- what is needed --------------------------------------------------------------------------------------

    def state(self) -> LoomState:
        needs = self._joined(self._by_tubes([*self._lead_needs(), *self._tie_needs()]))
        needs += self._jumpers()
        needs += self._spares()
        runs = self._laid(needs)
        runs.update(self._fibres())
        joints = joints_of(self.given.sections, self.lamps, self.home, _meetings(self.hubs, self.given.passages), runs)
        return LoomState(
            runs, passages_of(self.given.passages, runs), joints, ohms_of_wires(self.lamps, self.wanted_a, runs)
        )

    def _number(self, line: int) -> str:
        return str(line + 1)

    def _lead_needs(self) -> list[_Need]:
        out = []
        for n, line in enumerate(self.lines):
            current = max(self.wanted_a[i] for i in line.lamps)
            goal_at = source_place(self.given.sections, line.home)
            for end, lamp_id, net in (("plus", line.lamps[0], line.plus), ("minus", line.lamps[-1], line.minus)):
                decided = self.leads.get((lamp_id, end))
                made = self.catalogue.lamps.get(self.lamps[lamp_id].part)
                own = self.catalogue.wires.get(made.lead) if made is not None and made.leads_mm else None
                usual = own or self.wire
                part = self.catalogue.wires.get(decided.wire or "", usual) if decided else usual
                sign = "+" if end == "plus" else "−"
                out.append(
                    _Need(
                        f"{lamp_id}.{end}", "lead", line.lamps, end, net, self.home[lamp_id], self.lamps[lamp_id].at, line.home,
                        goal_at, current, part, (decided.tag if decided else "") or f"{self._number(n)}{sign}",
                        (decided.colour if decided else "") or self._colour(end, part), decided,
                        made.leads_mm if made is not None else 0.0,
                    )
                )  # fmt: skip
        return out

    @staticmethod
    def _colour(end: str, part: WirePart) -> str:
        return "copper" if part.kind == "enamelled" else "red" if end == "plus" else "black"

    def _tie_needs(self) -> list[_Need]:
        out = []
        for tie in self.ties:
            current = tie.current_a + sum(self.wanted_a.get(i, 0.0) for i in tie.lamps)
            start, goal = source_place(self.given.sections, tie.to), source_place(self.given.sections, tie.home)
            if start is None:
                continue
            part = self._thick_enough(current)
            for end, net in (("plus", tie.plus), ("minus", tie.minus)):
                sign = "+" if end == "plus" else "−"
                out.append(
                    _Need(
                        f"{tie.id}.{end}", "trunk", tie.lamps, end, net, tie.to, start, tie.home, goal, current, part,
                        f"{tie.id[:8]}{sign}", self._colour(end, part),
                    )
                )  # fmt: skip
        return out

    def _jumpers(self) -> list[_Need]:
        """From lamp to lamp of a string."""
        out = []
        for line in self.lines:
            for a, b in zip(line.lamps, line.lamps[1:], strict=False):
                out.append(
                    _Need(
                        f"{a}.jumper", "jumper", (a, b), "", "", self.home[a], self.lamps[a].at, self.home[b], self.lamps[b].at,
                        self.wanted_a[a], self.wire, "", self._colour("", self.wire),
                    )
                )  # fmt: skip
        return out

    def _spares(self) -> list[_Need]:
        """Leads for later lights: pairs from every section with lamps to the first source."""
        first = self.given.feeds[0]
        goal_at = source_place(self.given.sections, first.home)
        out = []
        for section_id in dict.fromkeys(self.home[i] for line in self.lines for i in line.lamps):
            if not section_id or section_id == first.home:
                continue
            at = next(s for s in self.given.sections if s.id == section_id).box.centre
            for k in range(2 * self.given.loom.spare):
                end = "plus" if k % 2 == 0 else "minus"
                out.append(
                    _Need(
                        f"{section_id}.spare.{k + 1}", "spare", (), end, "", section_id, at, first.home, goal_at, 0.0, self.wire,
                        f"S{k + 1}", self._colour(end, self.wire),
                    )
                )  # fmt: skip
        return out

    def _thick_enough(self, current_a: float) -> WirePart:
        """The usual wire, or the thinnest of its kind that bears the current."""
        if limit_a(self.wire.awg) >= current_a:
            return self.wire
        able = [w for w in self.catalogue.wires.values() if w.kind == self.wire.kind and limit_a(w.awg) >= current_a]
        if not able:
            able = [w for w in self.catalogue.wires.values() if limit_a(w.awg) >= current_a]
        return min(able, key=lambda w: w.outside_mm, default=self.wire)

    # -- tubes that carry current ----------------------------------------------------------------------------

    def _by_tubes(self, needs: list[_Need]) -> list[_Need]:
        """Leads of the side that a metal tube carries end at it; from its other end one wire goes on for each net."""
        live = {p.id: p.tube.conductor for p in self.given.passages if p.tube is not None and p.tube.conductor}
        if not live:
            return needs
        found = routed(self.ways, tuple(_run(n) for n in needs))
        out: list[_Need] = []
        onward: dict[tuple[str, str, str], list[_Need]] = {}
        for need in needs:
            room, tube = need.start, None
            for i in found.through[need.id] or ():
                if live.get(i) == need.end:
                    tube = self.passages[i]
                    break
                room = self.passages[i].into if room == self.passages[i].section else self.passages[i].section
            if tube is None:
                out.append(need)
                continue
            out.append(need._replace(goal=room, goal_at=_end_in(tube, room), lead=None))
            onward.setdefault((tube.id, need.net, room), []).append(need)
        for (tube_id, net, room), joined in onward.items():
            tube = self.passages[tube_id]
            other = tube.into if room == tube.section else tube.section
            current, end = sum(n.current_a for n in joined), joined[0].end
            part = self._thick_enough(current)
            out.append(
                _Need(
                    f"{tube_id}.{net}.{end}", "trunk", tuple(dict.fromkeys(i for n in joined for i in n.lamps)), end, net, other,
                    _end_in(tube, other), joined[0].goal, joined[0].goal_at, current, part, f"{tube_id[:8]}{'+' if end == 'plus' else '−'}",
                    self._colour(end, part),
                )
            )  # fmt: skip
        return out

    # -- hubs -------------------------------------------------------------------------------------------------

    def _joined(self, needs: list[_Need]) -> list[_Need]:
        """Leads end at the first hub on their way home that joins their side; from there one trunk goes on for each net."""
        if not self.hubs:
            return needs
        done: list[_Need] = []
        rest, guard = needs, 0
        while rest and guard < 50:
            guard += 1
            found = routed(self.ways, tuple(_run(n) for n in rest))
            at_hub: dict[tuple[str, str, str], list[_Need]] = {}
            for need in rest:
                hub = self._first_hub(need, found.through[need.id])
                if hub is None:
                    done.append(need)
                    continue
                at_hub.setdefault((hub.id, need.end, need.net), []).append(
                    need._replace(goal=hub.section, goal_at=hub.at)
                )
            rest = []
            for (hub_id, end, net), joined in at_hub.items():
                hub = next(h for h in self.hubs if h.id == hub_id)
                done += joined
                home = self._home_of(net)
                if hub.section == home:
                    continue
                current = sum(n.current_a for n in joined)
                part, sign = self._thick_enough(current), "+" if end == "plus" else "−"
                lamps = tuple(dict.fromkeys(i for n in joined for i in n.lamps))
                number = self.hubs.index(hub) + 1
                others = sorted({n for h, e, n in at_hub if (h, e) == (hub_id, end)})
                mark = f"H{number}{sign}" + (chr(ord("a") + others.index(net)) if len(others) > 1 else "")
                rest.append(
                    _Need(
                        f"{hub_id}.{net}.{end}", "trunk", lamps, end, net, hub.section, hub.at, home,
                        source_place(self.given.sections, home), current, part, mark, self._colour(end, part),
                    )
                )  # fmt: skip
        return done + rest

    def _home_of(self, net: str) -> str:
        """The section where a net begins."""
        for line in self.lines:
            if net in (line.plus, line.minus):
                return line.home
        return next((t.home for t in self.ties if net in (t.plus, t.minus)), "")

    def _first_hub(self, need: _Need, through: tuple[str, ...] | None) -> Hub | None:
        if need.lead is not None and need.lead.through:
            through = need.lead.through
        if through is None:
            return None
        room, rooms = need.start, [need.start]
        for i in through:
            p = self.passages.get(i)
            if p is None:
                break
            room = p.into if room == p.section else p.section
            rooms.append(room)
        own = need.id.rsplit(".", 2)[0] if need.kind == "trunk" else ""
        for here in rooms:
            for hub in self.hubs:
                if hub.section == here and hub.id != own and hub.joins in ("both", need.end):
                    return hub
        return None

    # -- ways -------------------------------------------------------------------------------------------------

    def _laid(self, needs: list[_Need]) -> dict[str, WireRun]:
        fixed: dict[str, tuple[str, ...]] = {}
        taken: dict[str, float] = self._fibre_areas()
        for n in needs:
            if n.lead is not None and n.lead.through and valid_way(self.passages, n.lead.through, n.start, n.goal):
                fixed[n.id] = n.lead.through
                for i in n.lead.through:
                    taken[i] = taken.get(i, 0.0) + area_mm2(n.part.outside_mm)
        free = [n for n in needs if n.id not in fixed]
        found = routed(self.ways, tuple(_run(n) for n in free), tuple(sorted(taken.items())))
        through = {**found.through, **fixed}
        return {n.id: self._wire(n, through[n.id]) for n in needs}

    def _wire(self, need: _Need, through: tuple[str, ...] | None) -> WireRun:
        way = need.lead.way if need.lead is not None else ()
        between = [self.passages[i] for i in through or ()]
        points = [need.start_at, *way, *(p.at for p in between)]
        if need.goal_at is not None and through is not None:
            points.append(need.goal_at)
        length = sum(math.dist(a, b) for a, b in itertools.pairwise(points))
        length += sum(p.length_mm + 2.0 * (p.slack_mm if p.joint == "hinge" else 0.0) for p in between)
        whole = math.ceil((length * LONGER + 2 * TAIL_MM) / STEP_MM) * STEP_MM
        # Its own lead reaches, or is made longer by what lacks, with a tail to join it by.
        cut = (
            whole
            if not need.own_mm
            else 0.0
            if whole <= need.own_mm
            else math.ceil((whole - need.own_mm + TAIL_MM) / STEP_MM) * STEP_MM
        )
        return WireRun(
            need.id, need.kind, need.lamps, need.end, need.net, need.part.id, need.part.outside_mm, need.colour, need.tag,  # type: ignore[arg-type]
            need.start, need.goal, through, tuple(points), length, cut, need.current_a, limit_a(need.part.awg),
            ohm_per_m(need.part.awg) * whole * 1e-3, need.own_mm,
        )  # fmt: skip

    def _fibre_areas(self) -> dict[str, float]:
        taken: dict[str, float] = {}
        for dot_id, through in self.led.items():
            part = self.catalogue.fibres.get(self.strands[dot_id].fibre)
            for i in through:
                taken[i] = taken.get(i, 0.0) + area_mm2(part.diameter_mm if part else 0.5)
        return taken

    def _fibres(self) -> dict[str, WireRun]:
        out = {}
        for dot_id, through in self.led.items():
            dot = self.strands[dot_id]
            part = self.catalogue.fibres.get(dot.fibre)
            if part is None or not through:
                continue
            lamp = self.lamps[dot.lamp]
            points = (lamp.at, *(self.passages[i].at for i in through), dot.at)
            length = sum(math.dist(a, b) for a, b in itertools.pairwise(points))
            out[f"{dot_id}.fibre"] = WireRun(
                f"{dot_id}.fibre", "fibre", (dot.lamp,), "", "", dot.fibre, part.diameter_mm, "", "", self.home[dot.lamp],
                dot.section, through, points, length, length, 0.0, 0.0, 0.0,
            )  # fmt: skip
        return out


def _end_in(tube: Passage, room: str) -> Place:
    """The end of a stand's tube that is in a section."""
    assert tube.tube is not None
    return tube.at if room == tube.section else tube.tube.to


def _run(n: _Need) -> Run:
    return Run(n.id, n.start, n.goal, n.start_at, n.goal_at, area_mm2(n.part.outside_mm))

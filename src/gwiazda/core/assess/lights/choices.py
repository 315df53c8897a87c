"""What can carry a light, side by side: how bright, how large, which hole, how much work, what can be reached later."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.assembly.holes import bores_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lights.build import means_of, needs
from gwiazda.core.assess.lights.exchange import exchanged
from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.place import spot_of
from gwiazda.core.assess.lights.states import LightState, state_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lights import LightMeans
from gwiazda.core.plan.lookup import built_into, find, joints_by_lamp, light_of, parts_of, section_of
from gwiazda.core.plan.model import Dot, Lamp, Opening, Plan
from gwiazda.core.quantities import counted

LARGE, DIM, BRIGHT = 2.0, 0.67, 1.5  # times the real one's size; times what is wanted


class Choice(NamedTuple):
    """A means for a light with its outcome, the whole plan assessed with it; ``blocked`` says why it can't be taken."""

    means: LightMeans
    now: bool
    blocked: str = ""
    state: LightState | None = None
    real_m: float = 0.0  # size of the real one
    hole: str = ""
    joints: int = 0
    minutes: float = 0.0  # more than with no light there
    parts: tuple[str, ...] = ()
    later: str = ""

    @property
    def too_large(self) -> bool:
        """Whether it would be out of scale."""
        return self.state is not None and self.real_m > 0 and self.state.full_size_m > LARGE * self.real_m

    @property
    def fine(self) -> bool:
        """Whether it reaches what is wanted and is of a size that passes."""
        return self.state is not None and self.state.reached >= DIM and not self.too_large


def hole_words(catalogue: Catalogue, plan: Plan, light_id: str) -> str:
    """The holes that a light takes: “hole 1.1 mm”; of several the sizes, each once."""
    mine = set(parts_of(plan, light_id))
    sizes = sorted({b.drill.hole_mm for b in bores_of(catalogue, plan) if b.of in mine})
    cut = [
        o
        for o in plan.openings
        if o.light == light_id and o.hole and not (o.shape == "round" and o.width_mm == o.height_mm)
    ]
    words = [f"{s:g} mm" for s in sizes] + ([f"{cut[0].width_mm:g} × {cut[0].height_mm:g} mm"] if cut else [])
    return f"hole {', '.join(words)}" if words else "no hole"


def joints_of(plan: Plan, light_id: str) -> int:
    """How many joints a light's own lamps bring."""
    joints = joints_by_lamp(plan.feeds)
    return sum(joints.get(p.id, 3) for p in plan.lamps if p.light == light_id)


def later_words(plan: Plan, light_id: str) -> str:
    """What of a light can be reached after its section is closed."""
    parts = [find(plan, i) for i in parts_of(plan, light_id)]
    lamps = [p for p in parts if isinstance(p, Lamp)]
    if any(p.late for p in lamps):
        return "fitted from outside, can be changed"
    homes = built_into(plan.sections, plan.lamps)
    fed = {d.lamp for d in parts if isinstance(d, Dot) and d.lamp}
    behind = {homes.get(i) or "" for i in (*(p.id for p in lamps), *fed)} - {""}
    names = [section_of(plan, s).name for s in sorted(behind)]
    if names:
        what = "its lamp" if fed and not lamps else "its joints"
        return f"{what} can be reached until {', '.join(names)} is closed"
    if any(isinstance(p, (Opening, Dot)) for p in parts):
        return "nothing of its own can fail"
    return "stays within reach"


def _bill(catalogue: Catalogue, plan: Plan, light_id: str) -> tuple[str, ...]:
    """What it is made of, in words."""
    out: list[str] = []
    for i in parts_of(plan, light_id):
        part = find(plan, i)
        if isinstance(part, Lamp):
            out.append(catalogue.lamps[part.part].name if part.part in catalogue.lamps else part.part)
            if part.lens is not None and part.lens.made in catalogue.lenses:
                out.append(f"lens {part.lens.width_mm or 0:g} mm, {catalogue.lenses[part.lens.made].name}")
            out.append("resistor")
        elif isinstance(part, Dot):
            out.append(catalogue.fibres[part.fibre].name if part.fibre in catalogue.fibres else part.fibre)
        elif isinstance(part, Opening) and part.lens is not None and part.lens.made in catalogue.lenses:
            out.append(f"lens {part.lens.width_mm or part.width_mm:g} mm, {catalogue.lenses[part.lens.made].name}")
    counts = {words: out.count(words) for words in dict.fromkeys(out)}
    return tuple(words if n == 1 else f"{n} × {words}" for words, n in counts.items())


def described(catalogue: Catalogue, plan: Plan, assessment: Assessment, light_id: str, bare_min: float = 0.0) -> Choice:
    """What carries a light now, with its outcome."""
    light = light_of(plan, light_id)
    means = catalogue.light_means.get(light.means) or LightMeans("", "Put together by hand", "", "", False)
    minutes = sum(s.minutes for s in steps_of(catalogue, plan)) - bare_min
    return Choice(
        means, True, "", state_of(plan, assessment, light_id), kind_of(catalogue, light.kind).real_m, hole_words(catalogue, plan, light_id),
        joints_of(plan, light_id), minutes, _bill(catalogue, plan, light_id), later_words(plan, light_id),
    )  # fmt: skip


def choices_of(plan: Plan, assessment: Assessment, light_id: str) -> tuple[Choice, ...]:
    """All that suits the light's kind, each tried and assessed; what it has now first."""
    from gwiazda.core.plan import edits

    catalogue = assessment.catalogue
    light, spot = light_of(plan, light_id), spot_of(plan, light_id)
    if spot is None:
        return ()
    bare = edits.delete(plan, [light_id]) if light.whole else plan
    bare_min = sum(s.minutes for s in steps_of(catalogue, bare))
    out = [described(catalogue, plan, assessment, light_id, bare_min)]
    for means_id in kind_of(catalogue, light.kind).means:
        if means_id == light.means:
            continue
        means = means_of(catalogue, means_id)
        why = needs(catalogue, plan, means, spot)
        if not why:
            try:
                other = exchanged(catalogue, plan, light_id, means_id)
            except GwiazdaError as error:
                why = error.found
        if why:
            out.append(Choice(means, False, why))
            continue
        tried = assess(other, catalogue, assessment.cells)
        out.append(described(catalogue, other, tried, light_id, bare_min)._replace(now=False))
    return tuple(out)


def outcome_words(choice: Choice) -> str:
    """A means in a line: “96 % · hole 0.55 mm · no joint”."""
    if choice.blocked:
        return choice.blocked
    words = []
    if choice.state is not None:
        share = choice.state.reached * 100.0
        many = f"{share / 100.0:.0f} ×" if share >= 1000.0 else f"{share:.0f} %"
        words.append(f"{share:.1g} %" if share < 1.0 else many)
    if choice.too_large and choice.state is not None:
        words.append(f"{choice.state.full_size_m:.2g} m at full size: too large")
    return " · ".join([*words, choice.hole, counted(choice.joints, "joint") if choice.joints else "no joint"])

"""Work out the figures that come with the demos, and those of an empty plan: ``make figures``."""

from __future__ import annotations

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.kept import pack
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.model import Plan, new_plan
from gwiazda.core.plan.storage import load
from gwiazda.demos import FIGURES, path_of


def plan_of(name: str) -> Plan:
    """A demo's plan, or an empty one."""
    return new_plan() if name == "empty" else load(path_of(name)).plan


if __name__ == "__main__":
    for path in FIGURES:
        plan = plan_of(path.stem)
        path.write_bytes(pack(plan, assess(plan, built_in())))
        print(path.name, path.stat().st_size, "bytes")

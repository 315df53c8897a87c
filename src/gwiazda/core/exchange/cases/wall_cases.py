"""Reference cases of light in a wall: read, solved, compared."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from gwiazda.core.errors import PlanFileError
from gwiazda.core.light import wall as w

SHARE_LIMIT, LEAST = 0.15, 0.002  # of the answer, or this much of the light, whichever is more
ACCEPTED = "wall_mm, pane, source (cavity or chip), inner and outer reflectance"


def solved_wall(case: dict[str, Any], name: str) -> float:
    """The share of a case: light out of its pane over what falls on the same area of the inner face, or over the chip's.

    Raises
    ------
    PlanFileError
        For fields that are missing or no numbers.
    """
    try:
        x, y, r = (float(v) for v in case["pane"])
        wall = w.Wall(
            float(case["wall_mm"]), "bare", float(case["inner_reflectance"]), float(case["outer_reflectance"]),
            "frosted" if case.get("pane_surface") == "frosted" else "clear", float(case.get("mfp_mm", 0.0)), float(case.get("g", 0.0)),
        )  # fmt: skip
        open_ = [float(v) for v in case.get("inner_open", ())]
        dab = [float(v) for v in case.get("dab", ())]
        source = case["source"]
        if not (wall.thickness_mm > 0 and r > 0 and all(math.isfinite(v) for v in (x, y, r, *open_, *dab))):
            raise ValueError("sizes")
    except (KeyError, TypeError, ValueError):
        raise PlanFileError(f"Wall case {name}", "fields are missing or no numbers", ACCEPTED) from None
    pane, box = w.disc(x, y, r), (x - r, x + r, y - r, y + r)
    if source == "chip":
        wall = wall._replace(inner="painted" if case.get("inner") == "painted" else "bare")
        points, cell = w.points_in(pane, box)
        return float(w.kernel(wall).at(np.hypot(points[:, 0], points[:, 1]), sent=True).sum() * cell)
    if dab:
        return w.dab_share(wall, pane, box, w.disc(*dab))
    a, b, wide = open_ or [x, y, w.FAR * wall.thickness_mm + r]
    # Open far beyond what reaches the pane, it is bare plastic all around.
    reach = math.hypot(x - a, y - b) + r + w.FAR * wall.thickness_mm
    if wide < reach:
        wall = wall._replace(inner="painted")
    wide = min(wide, reach)
    points, _ = w.points_in(pane, box, 600)
    if wall.mfp_mm > 0.0:
        return w.traced_share(wall, points, w.disc(a, b, wide), pane)
    source_points, cell = w.points_in(w.disc(a, b, wide), (a - wide, a + wide, b - wide, b + wide), 12_000)
    return w.shared(w.kernel(wall), points, source_points, cell)


def verify_walls(cases: list[dict[str, Any]]) -> tuple[Any, list[str], float | None, bool]:
    """Cases solved, a line each, the worst deviation over what is allowed (None without answers), whether all is within."""
    answers, lines, worst = [], [], None
    for case in cases:
        name = str(case.get("name", "case"))
        share = solved_wall(case, name)
        answers.append({**case, "solution": {"share": share}})
        given = case.get("solution")
        told = given.get("share") if isinstance(given, dict) else None
        if isinstance(told, (int, float)) and math.isfinite(told):
            off = abs(share - told)
            worst = max(off / max(SHARE_LIMIT * abs(told), LEAST), worst or 0.0)
            lines.append(f"{name}: {share:.5f}, {off:.1e} off")
        else:
            lines.append(f"{name}: {share:.5f}")
    if worst is not None:
        lines.append(f"worst of {len(cases)}: {worst:.2f} of what is allowed")
    return answers, lines, worst, worst is None or worst <= 1.0

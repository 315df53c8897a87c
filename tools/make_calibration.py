"""Draw how often figures fall within what is said of them, for bands from a tenth to nineteen in twenty: docs/how-sure.svg, from the demos' builds."""

from __future__ import annotations

from collections import defaultdict
from pathlib import Path
from statistics import NormalDist

import numpy as np

from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.storage import load
from gwiazda.core.workbench.builds.coverage import verify_builds
from gwiazda.demos import path_of

DEMOS, BUILDS, SEED = ("szron", "perkoz", "swistak", "bryla"), 100, 909
INKS = {
    "section": "#1b6ca8",
    "window": "#3f9c6b",
    "point": "#b8860b",
    "tip": "#a8443c",
    "leak": "#6b4a9c",
    "draw": "#4a4a4a",
    "hours": "#2a9da8",
    "evenness": "#c76b98",
    "dusk": "#7a8f2a",
}
SIDE, EDGE = 360, 44


def main() -> None:
    """Count and draw."""
    strayed: dict[str, list[np.ndarray]] = defaultdict(list)
    for name in DEMOS:
        for kind, off in verify_builds(name, load(path_of(name)).plan, built_in(), BUILDS, SEED).strayed.items():
            strayed[kind].append(np.abs(off[~np.isnan(off)]))
    said = [0.1, 0.25, 0.5, 0.75, 0.9, 0.95]
    at = lambda p, q: f"{EDGE + p * SIDE:.1f},{EDGE / 2 + (1 - q) * SIDE:.1f}"  # noqa: E731
    lines = [f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {SIDE + EDGE + 96} {SIDE + EDGE + 16}" font-family="sans-serif" font-size="12">',
             '<rect width="100%" height="100%" fill="#fbfaf7"/>',
             f'<polyline points="{at(0, 0)} {at(1, 1)}" stroke="#bbb" stroke-dasharray="4 4" fill="none"/>',
             f'<polyline points="{at(0, 1)} {at(0, 0)} {at(1, 0)}" stroke="#666" fill="none"/>']  # fmt: skip
    for p in (0.25, 0.5, 0.75, 0.9):
        x, y = (float(v) for v in at(p, 0).split(","))
        lines.append(f'<text x="{x}" y="{y + 16}" text-anchor="middle">{p:.0%}</text>')
        x, y = (float(v) for v in at(0, p).split(","))
        lines.append(f'<text x="{x - 6}" y="{y + 4}" text-anchor="end">{p:.0%}</text>')
    lines.append(f'<text x="{EDGE + SIDE / 2}" y="{SIDE + EDGE + 8}" text-anchor="middle">said to fall within</text>')
    lines.append(f'<text x="{EDGE + 8}" y="{EDGE / 2 + 10}">found within</text>')
    for k, (kind, parts) in enumerate(strayed.items()):
        off = np.concatenate(parts)
        points = [(p, float((off <= NormalDist().inv_cdf((1 + p) / 2)).mean())) for p in said]
        lines.append(
            f'<polyline points="{" ".join(at(*x) for x in points)}" stroke="{INKS[kind]}" stroke-width="1.5" fill="none"/>'
        )
        y = EDGE + 18 * k
        lines.append(
            f'<path d="M{EDGE + SIDE + 14} {y}h18" stroke="{INKS[kind]}" stroke-width="3"/><text x="{EDGE + SIDE + 38}" y="{y + 4}">{kind}</text>'
        )
        print(f"{kind:9}", "  ".join(f"{p:.0%}: {q:.1%}" for p, q in points))
    (Path(__file__).parent.parent / "docs" / "how-sure.svg").write_text(
        "\n".join([*lines, "</svg>", ""]), encoding="utf-8"
    )


if __name__ == "__main__":
    main()

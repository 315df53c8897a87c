"""Boxes with lamps, windows and baffles as JSON cases: solved, and compared with the answers they carry."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from gwiazda.core.errors import PlanFileError
from gwiazda.core.radiosity.beams import Beams
from gwiazda.core.radiosity.direct import lit
from gwiazda.core.radiosity.enclosure import enclosure
from gwiazda.core.radiosity.shadow import Baffle
from gwiazda.core.radiosity.shape import Windows

FACES = ("x0", "x1", "y0", "y1", "z0", "z1")
AXES = "xyz"
MOST = 500


def _refuse(where: str, found: str, accepted: str) -> PlanFileError:
    return PlanFileError(where, found, accepted)


def solved_cavity(case: Mapping[str, Any], where: str) -> dict[str, Any]:
    """Mean illuminance (lx) on each window of a case, and the light (lm) that leaves it; raises PlanFileError."""
    try:
        size = [float(v) for v in case["box"]]
        lining = [float(case["rho"][f]) for f in FACES]
        windows, lamps, baffles = case.get("windows", []), case.get("lamps", []), case.get("baffles", [])
        if len(size) != 3 or max(len(windows), len(lamps), len(baffles)) > MOST:
            raise ValueError(f"a box of three sizes and up to {MOST} of each thing in it")
        panes = Windows(
            np.array([FACES.index(w["face"]) for w in windows], dtype=np.intp),
            np.array([[w["a"][0], w["b"][0]] for w in windows], dtype=float).reshape(-1, 2),
            np.array([[w["a"][1], w["b"][1]] for w in windows], dtype=float).reshape(-1, 2),
            np.array([w["R"] for w in windows], dtype=float),
        )
        sheets = [
            Baffle(AXES.index(b["axis"]), float(b["at"]), (float(b["a"][0]), float(b["b"][0])), (float(b["a"][1]), float(b["b"][1])), float(b["rho"]))
            for b in baffles
        ]  # fmt: skip
        beams = Beams(
            np.array([p["at"] for p in lamps], dtype=float).reshape(-1, 3),
            np.array([p["aim"] for p in lamps], dtype=float).reshape(-1, 3),
            np.array([p["m"] for p in lamps], dtype=float),
        )
        flux = np.array([p["lumens"] for p in lamps], dtype=float)
        through = np.array([w["T"] for w in windows], dtype=float)
    except (KeyError, ValueError, TypeError, IndexError) as error:
        raise _refuse(where, f"is no cavity ({error!r})", "box, rho by face, windows, lamps and baffles") from None
    _check(where, np.array(size), np.array(lining), panes, beams, flux)
    lux = lit(enclosure(size, lining, panes, sheets), beams)[0] @ flux
    area = (panes.high - panes.low).prod(axis=1) * 1e-6
    names = [str(w["id"]) for w in windows]
    return {
        "mean_incident_lux_on_window": dict(zip(names, lux.tolist(), strict=True)),
        "window_out_lumens": dict(zip(names, (lux * area * through).tolist(), strict=True)),
    }


def _check(where: str, size: Any, lining: Any, panes: Windows, beams: Beams, flux: Any) -> None:
    if not (np.isfinite(size).all() and (size > 0).all() and (size < 1e5).all()):
        raise _refuse(where, f"a box of {size.tolist()} mm", "three sizes above zero")
    for what, values in (("lining", lining), ("window", panes.back)):
        if not ((values >= 0) & (values <= 1)).all():
            raise _refuse(where, f"a reflectance of {float(values.max()):g} in a {what}", "0 to 1")
    if not (panes.low < panes.high).all():
        raise _refuse(where, "a window with no size", "a below b on both axes")
    if not (np.isfinite(beams.at).all() and (np.linalg.norm(beams.aim, axis=1) > 0).all()):
        raise _refuse(where, "a lamp with an aim of no length", "an aim such as [0, 1, 0]")
    if not ((beams.at >= 0).all() and (beams.at <= size).all()):
        raise _refuse(where, "a lamp outside the box", "a place between 0 and the box's sizes")
    if not ((flux >= 0).all() and (beams.order >= 0).all()):
        raise _refuse(where, "a lamp with less than no light", "lumens and m from 0 on")


LIMIT, BAFFLED_LIMIT = 0.03, 0.05


def verify_cavities(cases: list[dict[str, Any]], name: str, single: bool) -> tuple[Any, list[str], float | None, bool]:
    """Solve every case: answers, a line each, the worst deviation of a window's light, and whether all are within 3 %
    (5 % where there is a baffle)."""
    answers: list[dict[str, Any]] = []
    lines: list[str] = []
    worst: float | None = None
    good = True
    for number, case in enumerate(cases, 1):
        title = str(case.get("name", f"case {number}"))
        answer = solved_cavity(case, f"{name}, {title}")
        answers.append({**case, "solution": answer})
        known = (
            case.get("solution", {}).get("mean_incident_lux_on_window")
            if isinstance(case.get("solution"), dict)
            else None
        )
        if known:
            off = {
                key: lux / float(known[key]["mean"] if isinstance(known[key], Mapping) else known[key]) - 1.0
                for key, lux in answer["mean_incident_lux_on_window"].items()
                if key in known
            }
            farthest = max(off, key=lambda k: abs(off[k]))
            worst = max(abs(off[farthest]), worst or 0.0)
            good = good and abs(off[farthest]) <= (BAFFLED_LIMIT if case.get("baffles") else LIMIT)
            lines.append(f"{title}: window {farthest} is {off[farthest] * 100:+.2f} % off, the worst of {len(off)}")
        else:
            lines.append(f"{title}: solved")
            lines += [f"  {k} {v:.6g} lx" for k, v in answer["mean_incident_lux_on_window"].items()]
    if worst is not None:
        lines.append(f"worst of {len(cases)}: {worst * 100:.2f} %")
    return (answers[0] if single else answers), lines, worst, good

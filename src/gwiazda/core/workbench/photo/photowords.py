"""What a photo of the lit model says, in words; and how to take one."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from gwiazda.core.assess.uncertainty import Z95
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure
from gwiazda.core.workbench.photo.photopanes import BURNT
from gwiazda.core.workbench.photo.photoread import PhotoReading

SCATTERED = 0.2  # of the logarithm of panes, against what was predicted
LOCK = (
    "Lock exposure and white balance on the lit windows before the first photo, dark room, camera on something firm, "
    "no flash, no night mode; one photo so that no pane is burnt out, a second one longer for leaks."
)


def cast_words(cast: tuple[float, float, float]) -> str:
    """A colour cast in words; empty where there is hardly any."""
    red, _, blue = (x / cast[1] if cast[1] > 0 else 1.0 for x in cast)
    if max(abs(math.log(max(red, 1e-3))), abs(math.log(max(blue, 1e-3)))) < 0.2:
        return ""
    if red > 1.0 >= blue:
        return "warmer than predicted"
    if blue > 1.0 >= red:
        return "cooler than predicted"
    return "greener than predicted" if red < 1.0 else "pinker than predicted"


def by_section(plan: Plan, reading: PhotoReading) -> Mapping[str, float]:
    """What each section's openings give over what was predicted, the median of those that count."""
    by_id = {o.id: o.section for o in plan.openings}
    groups: dict[str, list[float]] = {}
    for p in reading.told:
        groups.setdefault(by_id[p.id], []).append(p.ratio)
    return {k: float(np.median(v)) for k, v in groups.items()}


def curve_words(reading: PhotoReading) -> str:
    """How well the camera is known that took a photo, in words."""
    if reading.exposure.spread > SCATTERED:
        return "its panes scatter more than any camera’s curve explains: were HDR or night mode on"
    sure = f"a pane to ±{(math.exp(Z95 * reading.sigma) - 1.0) * 100:.0f} %"
    return f"camera’s curve told, {sure}" if reading.camera.sigma is not None else f"camera’s curve not told, {sure}"


def summary(plan: Plan, reading: PhotoReading) -> str:
    """A photo's reading in a few sentences, for the log."""
    names = {s.id: s.name for s in plan.sections}
    told, burnt = reading.told, sum(p.clipped >= BURNT for p in reading.panes)
    words = [f"{counted(len(told), 'opening')} told"]
    if told:
        ratios = np.array([p.ratio for p in told])
        within = float(np.mean(np.abs(ratios - 1.0) <= 0.1))
        words[0] += f", {within * 100:.0f} % of them within 10 % of what was predicted"
        worst = max(told, key=lambda p: abs(math.log(max(p.ratio, 1e-6))))
        if abs(worst.ratio - 1.0) > 0.15:
            words.append(f"farthest off {name_of(plan, worst.id)}: {figure(worst.ratio)} ×")
    if burnt:
        words.append(f"{counted(burnt, 'opening')} burnt out")
    words += [f"{names.get(k, k)} {figure(v)} ×" for k, v in by_section(plan, reading).items() if abs(v - 1.0) > 0.1]
    words += [f"{name_of(plan, p.id)} is lit and should be dark" for p in reading.unwanted[:3]]
    new = [x for x in reading.leaks if not x.predicted]
    if math.isinf(reading.floor_cd_m2):
        words.append("leaks not looked for: too few lit openings, or all in a line, to lay it on safely")
    elif reading.leaks:
        words.append(f"{counted(len(reading.leaks), 'leak')}, {len(new)} not predicted")
    else:
        words.append(f"no leak over {figure(reading.floor_cd_m2)} cd/m² to be seen in it")
    cast = cast_words(reading.cast)
    if cast:
        words.append(cast)
    words.append("by the grey patch" if reading.absolute else "exposure fitted to the prediction")
    words.append(curve_words(reading))
    return "; ".join(words) + "."

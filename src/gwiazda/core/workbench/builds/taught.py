"""Builds that are read: each is photographed and some of its panes measured, the plan learns, and the build is held against what is said then."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.bands import bands_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import StoppedError
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import LogEntry, PaneTold, Plan, copy_unchecked
from gwiazda.core.workbench.builds.coverage import (
    Given,
    Progress,
    Site,
    Verdict,
    bare,
    cells_of,
    counted_of,
)
from gwiazda.core.workbench.learning.lesson import lesson_of
from gwiazda.core.workbench.log import LUMINANCE
from gwiazda.core.workbench.soldered import as_built

PHOTO, UNKNOWN = 0.05, 1.0  # one sigma of a pane in a photo, and of the photo's level


class Evening(NamedTuple):
    """What is read of a build in an evening: so many photos of all of it, so many panes of each section by a meter."""

    photos: int = 1
    panes: int = 3


AN_EVENING, NOTHING_GIVEN = Evening(), Given({}, {})


def read_build(
    plan: Plan, house: Assessment, ratios: Mapping[str, float], evening: Evening, rng: np.random.Generator
) -> Plan:
    """The plan with a log of what is read of a build.

    Parameters
    ----------
    plan, house
        The plan and what the house says of it.
    ratios
        Each opening's luminance in the build over what the house says.
    evening
        What is read.
    rng
        Of the readings' errors.
    """
    log: list[LogEntry] = []
    for n in range(evening.photos):
        level = math.exp(UNKNOWN * float(rng.standard_normal()))
        told = tuple(
            PaneTold(on=o, ratio=r * level * math.exp(PHOTO * float(rng.standard_normal())), sigma=PHOTO)
            for o, r in ratios.items()
        )
        log.append(LogEntry(id=f"photo{n}", text="Photo", told=told))
    sections: dict[str, list[str]] = {}
    for o in ratios:
        sections.setdefault(house.openings[o].section, []).append(o)
    for key, mine in sections.items():
        for n, o in enumerate(rng.permutation(np.array(mine))[: evening.panes].tolist()):
            value = house.openings[o].luminance_cd_m2 * ratios[o] * math.exp(LUMINANCE * float(rng.standard_normal()))
            log.append(LogEntry(id=f"read-{key}-{n}"[:80], kind="reading", what="cd_m2", place=o, value=value))
    return copy_unchecked(plan, log=tuple(log))


def verify_taught(
    name: str, plan: Plan, catalogue: Catalogue, builds: int = 40, seed: int = 1, evening: Evening = AN_EVENING,
    progress: Progress = lambda share: True,
) -> Verdict:  # fmt: skip
    """Build a plan many times over, read each build for an evening, learn, and count what falls within what is said then.

    Parameters
    ----------
    name, plan, catalogue, builds, seed, progress
        As for ``verify_builds``.
    evening
        What is read of each.

    Returns
    -------
    Verdict
        Of sections and windows; the width is that after the readings.

    Raises
    ------
    StoppedError
        Where ``progress`` says so.
    """
    plan, catalogue = copy_unchecked(plan, learned=()), catalogue.unread
    house = assess(plan, catalogue)
    built = as_built(bare(plan), house)
    cells = cells_of(built, catalogue, seed, house)
    site = Site(built, catalogue, seed, cells)
    said = assess(built, catalogue)
    before = tuple(b for b in bands_of(built, said) if b.kind in ("section", "window"))
    rows, widths = [], []
    for number in range(builds):
        ratios = dict(
            zip(((b.kind, b.of) for b in before), site.ratios(number, before, NOTHING_GIVEN, read=False), strict=True)
        )
        panes = {of: r for (kind, of), r in ratios.items() if kind == "window" and not math.isnan(r)}
        read = read_build(built, said, panes, evening, np.random.default_rng([seed, number, 2]))
        learned = copy_unchecked(built, learned=lesson_of(read, catalogue).learned)
        after = {(b.kind, b.of): b for b in bands_of(learned, assess(learned, catalogue))}
        bands = tuple(after[b.kind, b.of] for b in before)
        widths.append([b.width for b in bands])
        # In sigmas of what is said of this build.
        rows.append(
            [
                math.log(ratios[b.kind, b.of] * b.value / a.value) / math.log(a.high / a.value)
                for a, b in zip(bands, before, strict=True)
            ]
        )
        if not progress((number + 1) / builds):
            raise StoppedError
    return counted_of(name, builds, seed, before, np.array(rows), np.median(np.array(widths), axis=0))

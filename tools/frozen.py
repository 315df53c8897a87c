"""Freeze all that is computed, and hold another state of the code against it: what a redesign must not change.

    python tools/frozen.py write before.json
    python tools/frozen.py check before.json

For each of the demos, the lit starters and 50 plans gone wrong: a digest of the assessment, of the findings with what their offers make of the
plan, of their words, of the night picture from every side and of what goes out. Values alone count, not their names: a class or a field may be
called something else. Digests are of the very bits, so both runs belong on one machine.
"""

from __future__ import annotations

import dataclasses
import hashlib
import json
import sys
import time
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tests"))
WRONG = 50
PIXELS = 240


def plans() -> Iterator[tuple[str, Any]]:
    from bent import DEMOS, gone_wrong
    from gwiazda.core.parts.catalogue import built_in
    from gwiazda.core.plan.storage import load
    from gwiazda.core.starter.forms import FORMS
    from gwiazda.core.starter.start import start
    from gwiazda.demos import path_of

    for name in DEMOS:
        yield name, load(path_of(name)).plan
    for form in FORMS:
        yield f"starter {form}", start(built_in(), FORMS[form].sizes).plan
    for seed in range(WRONG):
        yield f"gone wrong {seed}", gone_wrong(seed)


def _fed(digest: Any, value: Any) -> None:
    """Feed a value into a digest: what it holds in order, without names of types and fields."""
    if isinstance(value, np.ndarray):
        digest.update(f"{value.shape}{value.dtype.kind}".encode())
        digest.update(np.ascontiguousarray(value).tobytes())
    elif isinstance(value, Mapping):
        for key in sorted(value, key=str):
            _fed(digest, key)
            _fed(digest, value[key])
    elif isinstance(value, (set, frozenset)):
        _fed(digest, sorted(value, key=str))
    elif isinstance(value, (tuple, list)):
        digest.update(f"[{len(value)}".encode())
        for entry in value:
            _fed(digest, entry)
    elif dataclasses.is_dataclass(value) and not isinstance(value, type):
        _fed(digest, [getattr(value, f.name) for f in dataclasses.fields(value)])
    elif hasattr(value, "__struct_fields__"):
        _fed(digest, [getattr(value, f) for f in value.__struct_fields__])
    elif isinstance(value, (float, np.floating)):
        digest.update(float(value).hex().encode())
    elif isinstance(value, (str, int, bool, np.integer, np.bool_)) or value is None:
        digest.update(repr(value if not isinstance(value, np.generic) else value.item()).encode())
    elif not callable(value):
        raise TypeError(f"{type(value)} in what is frozen")


def of(value: Any) -> str:
    digest = hashlib.sha256()
    _fed(digest, value)
    return digest.hexdigest()[:20]


def frozen(plan: Any) -> dict[str, str]:
    """Digests of all that is computed for a plan."""
    from gwiazda.core.assess.assessment import assess
    from gwiazda.core.assess.night.picture import night_luminance
    from gwiazda.core.assess.night.scene import surfaces_of
    from gwiazda.core.errors import GwiazdaError
    from gwiazda.core.findings.rules import evaluate_rules
    from gwiazda.core.parts.catalogue import built_in
    from gwiazda.core.plan.frame import PLANES
    from gwiazda.core.plan.storage import plan_to_json
    from gwiazda.core.render.layers import Camera

    catalogue = built_in()
    assessment = assess(plan, catalogue)
    findings = evaluate_rules(plan, assessment)
    made = []
    for f in findings:
        after = []
        for fix in f.fixes:
            try:
                after.append(plan_to_json(fix.applied(plan)))
            except (GwiazdaError, KeyError) as error:
                after.append(type(error).__name__)
        made.append((f.rule, f.severity, f.topic, f.subjects, float(f.number), after))
    out = {
        "plan": of(plan_to_json(plan)),
        "assessment": of([v for v in assessment if v is not catalogue and v is not assessment.meters]),
        "meters": of([v for m in assessment.meters for v in m if not isinstance(v, str)]),
        "findings": of(made),
        "words": of([[(f.sentence, [x.label for x in f.fixes]) for f in findings], assessment.meters]),
    }
    for side in PLANES:
        surfaces = surfaces_of(catalogue, plan, side)
        if not surfaces:
            continue
        points = np.concatenate([s.polygon for s in surfaces])
        low, high = points.min(axis=0) - 5.0, points.max(axis=0) + 5.0
        scale = PIXELS / float((high - low).max())
        wide, tall = (max(int(x * scale), 8) for x in high - low)
        camera = Camera(wide, tall, (float(low[0]), float(low[1])), scale, plan.room.distance_m)
        out[f"night {side}"] = of(night_luminance(plan, assessment, side, camera)[0])
    out.update(_tables(plan, assessment))
    return out


PICTURES = (".png", ".gif", ".apng", ".pdf", ".dxf", ".ics")  # held by their luminance, or they name their hour
OF_A_DAY = ("steps", "sheets", "parts", "stock")


def _tables(plan: Any, found: Any) -> dict[str, str]:
    """What goes out as text or as solids, by the functions that ``gwiazda export`` and the window call."""
    import tempfile

    from gwiazda.core.errors import GwiazdaError
    from gwiazda.core.plan.storage import PlanFile
    from gwiazda.core.workshop.workshop import Workshop
    from gwiazda.desktop.shell.export.exports import EXPORTS, Job

    out: dict[str, str] = {}
    with tempfile.TemporaryDirectory() as folder:
        for export in EXPORTS:
            for suffix in (s for s in export.suffixes if s not in PICTURES and export.id not in OF_A_DAY):
                where = Path(folder) / f"{export.id}{suffix}"
                try:
                    if export.lacks(plan):
                        raise GwiazdaError(export.label, export.lacks(plan))
                    export.write(Job(PlanFile(plan), found.catalogue, Workshop(), where, given=found))
                except GwiazdaError:
                    out[f"{export.id}{suffix}"] = "PlanError"
                    continue
                out[f"{export.id}{suffix}"] = hashlib.sha256(where.read_bytes()).hexdigest()[:20]
    return out


def main(arguments: list[str]) -> int:
    if len(arguments) != 2 or arguments[0] not in ("write", "check"):
        print(__doc__)
        return 2
    where = Path(arguments[1])
    before = json.loads(where.read_text()) if arguments[0] == "check" else {}
    now, begun, off = {}, time.perf_counter(), 0
    for name, plan in plans():
        now[name] = frozen(plan)
        unlike = [
            k
            for k in {**before.get(name, {}), **now[name]}
            if before and before.get(name, {}).get(k) != now[name].get(k)
        ]
        off += bool(unlike)
        if unlike:
            print(f"{name}: unlike before in {', '.join(unlike)}")
    if arguments[0] == "write":
        where.write_text(json.dumps(now, indent=1))
    print(
        f"{len(now)} plans, {sum(map(len, now.values()))} digests, {time.perf_counter() - begun:.0f} s; {off} unlike before"
    )
    return 1 if off else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

"""Reading files of reference cases and running the solvers on them."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, NamedTuple

from gwiazda.core.circuit.exchange import solved, worst_deviation
from gwiazda.core.errors import PlanFileError
from gwiazda.core.exchange.cases.cavity_cases import verify_cavities
from gwiazda.core.exchange.cases.wall_cases import verify_walls

MAX_BYTES = 64 * 2**20


CIRCUIT_LIMIT = 1e-3


class Verdict(NamedTuple):
    """Solved cases, a line each, the worst relative deviation (None without answers), and whether all is within limits."""

    cases: Any
    lines: list[str]
    worst: float | None
    good: bool


def verify_file(path: str | Path) -> Verdict:
    """Solve every case of a file.

    Returns
    -------
    Verdict
        Its cases in the shape of the file.

    Raises
    ------
    PlanFileError, CircuitError
        When the file can't be read, or a case in it.
    """
    path = Path(path)
    try:
        if path.stat().st_size > MAX_BYTES:
            raise PlanFileError(path.name, f"{path.stat().st_size / 2**20:.0f} MB", f"up to {MAX_BYTES // 2**20} MB")
        raw = json.loads(path.read_bytes())
    except OSError as error:
        raise PlanFileError(path.name, f"can't be opened ({error.strerror})", "a file of reference cases") from None
    except (ValueError, RecursionError):
        raise PlanFileError(path.name, "is not readable JSON", "a file of reference cases") from None
    if isinstance(raw, dict) and raw.get("kind") == "walls":
        raw = raw.get("cases")
    single = isinstance(raw, dict)
    cases = [raw] if single else raw
    if not isinstance(cases, list) or not cases or not all(isinstance(c, dict) for c in cases):
        raise PlanFileError(path.name, "holds no cases", "a case, or a list of them")
    if all("box" in c for c in cases):
        return Verdict(*verify_cavities(cases, path.name, single))
    if all("wall_mm" in c for c in cases):
        return Verdict(*verify_walls(cases))
    answers, lines, worst = [], [], None
    for case in cases:
        answer = solved(case)
        answers.append(answer)
        name = str(case.get("name", "case"))
        if isinstance(case.get("solution"), dict):
            deviation = worst_deviation(case["solution"], answer["solution"])
            worst = max(deviation, worst or 0.0)
            lines.append(f"{name}: worst deviation {deviation:.1e}")
        else:
            lines.append(f"{name}: solved")
            lines += [f"  {k} {v:.6e} A" for k, v in answer["solution"]["currents"].items()]
    if worst is not None:
        lines.append(f"worst of {len(cases)}: {worst:.1e}")
    return Verdict(answers[0] if single else answers, lines, worst, worst is None or worst <= CIRCUIT_LIMIT)

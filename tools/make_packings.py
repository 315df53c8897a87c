"""Compute the table of best packings of equal circles in a circle, from many starts: ``core/space/data/packings.json``.

    python tools/make_packings.py [STARTS]

Those in the table that are as good as published are kept.

Each is found by bringing down the radius of the hole under the constraints that no two circles overlap (SLSQP), and
compared with the published ratios in ``core/fibre/bundle.py``.
"""

import json
import math
import sys
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

from gwiazda.core.fibre.bundle import RATIOS

MOST = 37
OUT = Path(__file__).parent.parent / "src/gwiazda/core/space/data/packings.json"


def soft(p: np.ndarray, n: int, hole: float) -> np.ndarray:
    """From random places to nearly touching ones."""
    i, j = np.triu_indices(n, 1)

    def energy(flat: np.ndarray) -> tuple[float, np.ndarray]:
        q = flat.reshape(n, 2)
        d = q[i] - q[j]
        far = np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-9)
        deep = np.maximum(2.0 - far, 0.0)
        pull = d * (-2.0 * deep / far)[:, None]
        slope = np.zeros_like(q)
        np.add.at(slope, i, pull)
        np.add.at(slope, j, -pull)
        out = np.maximum(np.hypot(q[:, 0], q[:, 1]), 1e-9)
        over = np.maximum(out - (hole - 1.0), 0.0)
        slope += q * (2.0 * over / out)[:, None]
        return float((deep**2).sum() + (over**2).sum()), slope.ravel()

    return minimize(energy, p.ravel(), jac=True, method="L-BFGS-B").x


def best(n: int, starts: int, rng: np.random.Generator) -> tuple[float, np.ndarray]:
    if n == 1:
        return 1.0, np.zeros((1, 2))
    i, j = np.triu_indices(n, 1)
    rows = np.arange(len(i))
    found, places = math.inf, np.zeros((n, 2))
    grad = np.zeros(2 * n + 1)
    grad[-1] = 1.0
    for _ in range(starts):
        r, turn = np.sqrt(rng.random(n)), rng.random(n) * 2 * math.pi
        hole = RATIOS[n - 1]
        p = soft(np.column_stack([r * np.cos(turn), r * np.sin(turn)]) * hole * 0.8, n, hole)
        q = p.reshape(n, 2)
        d = q[i] - q[j]
        gap = float(np.hypot(d[:, 0], d[:, 1]).min())
        scale = 2.0 / gap if gap > 0 else 2.0
        if scale * np.hypot(q[:, 0], q[:, 1]).max() + 1.0 > 1.12 * hole and n > 12:
            continue

        def apart(x: np.ndarray) -> np.ndarray:
            q = x[:-1].reshape(n, 2)
            d = q[i] - q[j]
            return np.concatenate([(d**2).sum(axis=1) - 4.0, (x[-1] - 1.0) ** 2 - (q**2).sum(axis=1)])

        def slopes(x: np.ndarray) -> np.ndarray:
            q = x[:-1].reshape(n, 2)
            d = q[i] - q[j]
            jac = np.zeros((len(i) + n, 2 * n + 1))
            for a in (0, 1):
                jac[rows, 2 * i + a] = 2 * d[:, a]
                jac[rows, 2 * j + a] = -2 * d[:, a]
                jac[len(i) + np.arange(n), 2 * np.arange(n) + a] = -2 * q[:, a]
            jac[len(i) :, -1] = 2 * (x[-1] - 1.0)
            return jac

        x0 = np.append(p * scale, scale * np.hypot(q[:, 0], q[:, 1]).max() + 1.0)
        got = minimize(lambda x: x[-1], x0, jac=lambda x: grad, method="SLSQP",
                       constraints=[{"type": "ineq", "fun": apart, "jac": slopes}], options={"maxiter": 300})  # fmt: skip
        if got.x[-1] < found and apart(got.x).min() > -1e-7:
            found, places = float(got.x[-1]), got.x[:-1].reshape(n, 2)
            if found < RATIOS[n - 1] + 6e-4:
                break
    return found, places


def main() -> None:
    starts = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    rng = np.random.default_rng(7)
    table = json.loads(OUT.read_text(encoding="utf-8"))["places"] if OUT.exists() else {}
    for n in range(1, MOST + 1):
        known = np.array(table.get(str(n), []))
        if len(known) == n and np.hypot(known[:, 0], known[:, 1]).max() + 1.0 < RATIOS[n - 1] + 1e-3:
            continue  # as good as published
        ratio, places = best(n, starts, rng)
        print(n, round(ratio, 4), RATIOS[n - 1], flush=True)
        table[str(n)] = [[round(float(x), 5), round(float(y), 5)] for x, y in places]
    note = "Centres of the best packings of equal circles of radius 1 in a circle, computed by tools/make_packings.py"
    OUT.write_text(json.dumps({"note": note, "places": table}, separators=(",", ":")) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()

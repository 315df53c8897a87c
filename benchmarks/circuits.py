"""The solver against scipy.optimize.root on the same network."""

from __future__ import annotations

import time

import numpy as np
from scipy.optimize import root
from scipy.special import wrightomega

from benchmarks.plans import ladder
from gwiazda.core.circuit.network import Diode, Resistor, Source


def nodal_equations(elements, volts, ohms, is_a, vt):
    """Kirchhoff's current law at the nodes of the same network: the rail and the anode of each lamp.

    A lamp's current at its voltage is in closed form (scipy.special.wrightomega), so that these are the equations
    our solver starts from, before it folds the strings.
    """
    source = next(e for e in elements if isinstance(e, Source))
    resistors = [i for i, e in enumerate(elements) if isinstance(e, Resistor)]
    diodes = [i for i, e in enumerate(elements) if isinstance(e, Diode)]
    k = len(diodes)
    s = elements.index(source)
    emf, g_source, g = volts[s], 1.0 / ohms[s], 1.0 / ohms[resistors]
    nvt, sat, rs = np.array([elements[i].n for i in diodes]) * vt, is_a[diodes], ohms[diodes]
    shift = np.log(rs * sat / nvt) + rs * sat / nvt
    low = np.arange(1, k + 1)
    last = {}

    def lamp(v):
        w = wrightomega(v / nvt + shift)
        last["slope"] = w / (rs * (1 + w))
        return nvt / rs * w - sat

    def residual(x):
        i = (x[0] - x[1:]) * g
        return np.concatenate([[(emf - x[0]) * g_source - i.sum()], i - lamp(x[1:])])

    def jacobian(x):
        lamp(x[1:])
        m = np.zeros((k + 1, k + 1))
        m[0, 0] = -g_source - g.sum()
        m[0, low] = g
        m[low, 0] = g
        m[low, low] = -g - last["slope"]
        return m

    return residual, jacobian, np.concatenate([[emf], np.full(k, 2.7)])


def branch_equations(elements, volts, ohms, is_a, vt):
    """The better-behaved form with the branch currents as unknowns: V_rail(ΣI) − R·I − V_lamp(I) = 0."""
    source = next(e for e in elements if isinstance(e, Source))
    resistors = [i for i, e in enumerate(elements) if isinstance(e, Resistor)]
    diodes = [i for i, e in enumerate(elements) if isinstance(e, Diode)]
    s = elements.index(source)
    emf, r0 = volts[s], ohms[s]
    r = ohms[resistors] + ohms[diodes]
    nvt, sat = np.array([elements[i].n for i in diodes]) * vt, is_a[diodes]

    def residual(i):
        return emf - r0 * i.sum() - r * i - nvt * np.log1p(np.maximum(i, 0) / sat)

    def jacobian(i):
        m = np.full((len(i), len(i)), -r0)
        m[np.diag_indices(len(i))] -= r + nvt / (np.maximum(i, 0) + sat)
        return m

    return residual, jacobian, (emf - 2.7) / r


def median_ms(function, repeat):
    times = []
    for _ in range(repeat):
        start = time.perf_counter()
        function()
        times.append((time.perf_counter() - start) * 1e3)
    return float(np.median(times))


def run(say) -> None:
    network, elements = ladder()
    network.solve()
    ours = median_ms(network.solve, 60)
    values = (network.volts, network.ohms, network.is_a, network.vt)
    residual, jacobian, start = branch_equations(elements, *values)
    theirs = median_ms(lambda: root(residual, start, jac=jacobian, method="hybr", options={"xtol": 1e-10}), 60)
    found = root(residual, start, jac=jacobian, method="hybr", options={"xtol": 1e-10}).x
    columns = [i for i, e in enumerate(elements) if isinstance(e, Resistor)]
    apart = np.max(np.abs(network.solve().currents[0, columns] / found - 1))
    node_residual, node_jacobian, node_start = nodal_equations(elements, *values)
    nodal = median_ms(lambda: root(node_residual, node_start, jac=node_jacobian, method="hybr"), 30)
    say(
        f"solver, 60 lamps, one point: {ours:.2f} ms; scipy.optimize.root (hybr, Jacobian) on the nodal equations {nodal:.2f} ms"
    )
    say(f"  ratio {nodal / ours:.1f} x (asked 2.5); answers apart by {apart:.1e}")
    say(f"  ({theirs:.2f} ms, {theirs / ours:.1f} x, when root is handed a form folded by hand for this one shape)")

    rng = np.random.default_rng(5)
    count = 1000
    ohms = network.ohms * rng.uniform(0.95, 1.05, (count, len(elements)))
    volts = network.volts * rng.uniform(0.95, 1.05, (count, 1))
    is_a = network.is_a * np.exp(rng.normal(0, 0.5, (count, len(elements))))
    ours = median_ms(lambda: network.solve(volts=volts, ohms=ohms, is_a=is_a), 7)

    def loop():
        for s in range(0, count, 10):  # a tenth of them, counted ten times
            f, j, x = branch_equations(elements, volts[s], ohms[s], is_a[s], network.vt)
            root(f, x, jac=j, method="hybr")

    theirs = median_ms(loop, 3) * 10

    def node_loop():
        for s in range(0, count, 50):
            f, j, x = nodal_equations(elements, volts[s], ohms[s], is_a[s], network.vt)
            root(f, x, jac=j, method="hybr")

    nodal = median_ms(node_loop, 3) * 50
    say(f"solver, 1,000 varied points in one call: {ours:.0f} ms; loop of root on the nodal equations {nodal:.0f} ms")
    say(f"  ratio {nodal / ours:.0f} x (asked 80); {theirs / ours:.0f} x against the form folded by hand")

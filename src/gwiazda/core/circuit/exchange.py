"""Networks in the JSON form of the reference cases, and how far an answer is from a given one."""

from __future__ import annotations

from typing import Any

from gwiazda.core.circuit.network import Diode, Element, Motor, Network, Regulator, Resistor, Source, Transistor
from gwiazda.core.circuit.parts.diode import VT_300K
from gwiazda.core.errors import CircuitError

# For each kind its element, and the attribute of each field; texts are nodes.
_KINDS: dict[str, tuple[type, dict[str, str]]] = {
    "source": (Source, {"plus": "plus", "minus": "minus", "volts": "volts", "ohms": "ohms"}),
    "resistor": (Resistor, {"a": "a", "b": "b", "ohms": "ohms"}),
    "led": (Diode, {"anode": "anode", "cathode": "cathode", "is": "is_a", "n": "n", "rs": "rs"}),
    "diode": (Diode, {"anode": "anode", "cathode": "cathode", "is": "is_a", "n": "n", "rs": "rs"}),
    "regulator": (
        Regulator,
        {"vin": "vin", "vout": "vout", "gnd": "gnd", "volts": "volts", "dropout": "dropout_v", "iq": "quiescent_a", "ohms": "ohms"},
    ),
    "npn": (
        Transistor,
        {"collector": "collector", "base": "base", "emitter": "emitter", "is": "is_a", "n": "n", "beta": "beta", "beta_reverse": "beta_reverse"},
    ),
    "motor": (
        Motor,
        {"a": "a", "b": "b", "volts": "nominal_v", "running": "running_a", "idle": "idle_a", "winding": "winding_ohm", "geared": "geared"},
    ),
}  # fmt: skip
_TEXTS = {"plus", "minus", "a", "b", "anode", "cathode", "vin", "vout", "gnd", "collector", "base", "emitter"}
_DEFAULTS = {
    ("source", "ohms"): 0.0, ("regulator", "ohms"): 0.05, ("npn", "n"): 1.0, ("npn", "beta_reverse"): 4.0, ("motor", "geared"): 0.0,
}  # fmt: skip


def element_from(data: dict[str, Any]) -> Element:
    """One element.

    Parameters
    ----------
    data : dict[str, array]
        One element as the reference cases write it: ``kind``, ``id``, nodes, and values in Ω, V, A.

    Returns
    -------
    Element
        The element.

    Raises
    ------
    CircuitError
        Naming the element and the field.
    """
    if not isinstance(data, dict):
        raise CircuitError("Element", f"{data!r} is not an object", "an object with kind and id")
    kind, name = data.get("kind"), str(data.get("id", "without id"))
    if kind not in _KINDS:
        raise CircuitError(f"Element {name}", f"kind {kind!r}", ", ".join(_KINDS))
    made, fields = _KINDS[kind]
    values: dict[str, Any] = {"kind": kind} if made is Diode else {}
    for field, attribute in fields.items():
        value = data.get(field, _DEFAULTS.get((kind, field)))
        if field in _TEXTS and isinstance(value, str):
            values[attribute] = value
        elif field == "geared" and value in (True, False):
            values[attribute] = bool(value)
        elif field not in _TEXTS and isinstance(value, (int, float)) and not isinstance(value, bool):
            values[attribute] = float(value)
        else:
            wanted = "a node name" if field in _TEXTS else "a number"
            raise CircuitError(f"Element {name}, {field}", f"found {value!r}", wanted)
    element: Element = made(name, **values)
    return element


def element_to(element: Element) -> dict[str, Any]:
    """An element in the form of the reference cases; ``element_from`` reads it back.

    Parameters
    ----------
    element : Element
        An element of a network.

    Returns
    -------
    dict[str, array]
        What the reference cases write for it.
    """
    kind = getattr(element, "kind", None) or next(k for k, (made, _) in _KINDS.items() if isinstance(element, made))
    return {"kind": kind, "id": element.id, **{f: getattr(element, a) for f, a in _KINDS[kind][1].items()}}


def network_from(case: dict[str, Any]) -> Network:
    """The network of one case.

    Parameters
    ----------
    case : dict[str, array]
        A case: ``elements``, and the solver's settings where it has any.

    Returns
    -------
    Network
        The network, ready to solve.

    Raises
    ------
    CircuitError
        When the case has no elements.
    """
    elements = case.get("elements")
    if not isinstance(elements, list) or not elements:
        raise CircuitError(str(case.get("name", "Case")), "there are no elements", "a list of elements")
    return Network([element_from(e) for e in elements], str(case.get("ground", "0")), float(case.get("vt", VT_300K)))


def solved(case: dict[str, Any]) -> dict[str, Any]:
    """The case with its ``solution`` replaced by ours, in the same shape.

    Parameters
    ----------
    case : dict[str, array]
        A case, with a solution or without.

    Returns
    -------
    dict[str, array]
        The same case with volts by node and amps by element.
    """
    network = network_from(case)
    answer = network.solve()
    solution = {"nodes": network.node_volts(answer), "currents": network.element_currents(answer)}
    return {**case, "solution": solution}


def worst_deviation(expected: dict[str, Any], found: dict[str, Any]) -> float:
    """Largest relative deviation of the currents above 1 µA; smaller ones count against 1 µA.

    Parameters
    ----------
    expected : dict[str, array]
        A solution: ``currents`` by element, A.
    found : dict[str, array]
        Another of the same network.

    Returns
    -------
    float
        Largest relative deviation, no unit.
    """
    currents = expected.get("currents", {})
    return max(
        (abs(found["currents"].get(name, 0.0) - value) / max(abs(value), 1e-6) for name, value in currents.items()),
        default=0.0,
    )

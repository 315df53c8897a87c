"""Networks in the JSON form of the reference cases, and how far an answer is from a given one."""

from __future__ import annotations

from typing import Any

from gwiazda.core.circuit.diode import VT_300K
from gwiazda.core.circuit.network import Diode, Element, Network, Regulator, Resistor, Source, Transistor
from gwiazda.core.errors import CircuitError

_FIELDS: dict[str, tuple[str, ...]] = {
    "source": ("plus", "minus", "volts", "ohms"),
    "resistor": ("a", "b", "ohms"),
    "led": ("anode", "cathode", "is", "n", "rs"),
    "diode": ("anode", "cathode", "is", "n", "rs"),
    "regulator": ("vin", "vout", "gnd", "volts", "dropout", "iq", "ohms"),
    "npn": ("collector", "base", "emitter", "is", "n", "beta", "beta_reverse"),
}
_TEXTS = {"plus", "minus", "a", "b", "anode", "cathode", "vin", "vout", "gnd", "collector", "base", "emitter"}
_DEFAULTS = {("source", "ohms"): 0.0, ("regulator", "ohms"): 0.05, ("npn", "n"): 1.0, ("npn", "beta_reverse"): 4.0}


def element_from(data: dict[str, Any]) -> Element:
    """One element.

    Raises
    ------
    CircuitError
        Naming the element and the field.
    """
    if not isinstance(data, dict):
        raise CircuitError("Element", f"{data!r} is not an object", "an object with kind and id")
    kind, name = data.get("kind"), str(data.get("id", "without id"))
    if kind not in _FIELDS:
        raise CircuitError(f"Element {name}", f"kind {kind!r}", ", ".join(_FIELDS))
    nodes: list[str] = []
    numbers: dict[str, float] = {}
    for field in _FIELDS[kind]:
        value = data.get(field, _DEFAULTS.get((kind, field)))
        if field in _TEXTS and isinstance(value, str):
            nodes.append(value)
        elif field not in _TEXTS and isinstance(value, (int, float)) and not isinstance(value, bool):
            numbers[field] = float(value)
        else:
            wanted = "a node name" if field in _TEXTS else "a number"
            raise CircuitError(f"Element {name}, {field}", f"found {value!r}", wanted)
    if kind == "source":
        return Source(name, nodes[0], nodes[1], **numbers)
    if kind == "resistor":
        return Resistor(name, nodes[0], nodes[1], **numbers)
    if kind == "regulator":
        values = (numbers[k] for k in ("volts", "dropout", "iq", "ohms"))
        return Regulator(name, nodes[0], nodes[1], nodes[2], *values)
    numbers["is_a"] = numbers.pop("is")
    if kind == "npn":
        return Transistor(name, nodes[0], nodes[1], nodes[2], **numbers)
    return Diode(name, nodes[0], nodes[1], kind=kind, **numbers)


def element_to(element: Element) -> dict[str, Any]:
    """An element in the form of the reference cases; ``element_from`` reads it back."""
    kinds: tuple[tuple[type, str], ...] = (
        (Source, "source"), (Resistor, "resistor"), (Diode, "led"), (Regulator, "regulator"), (Transistor, "npn"),
    )  # fmt: skip
    kind = next(name for cls, name in kinds if isinstance(element, cls))
    names = {"is": "is_a", "dropout": "dropout_v", "iq": "quiescent_a"}
    kind = getattr(element, "kind", kind)
    return {"kind": kind, "id": element.id, **{f: getattr(element, names.get(f, f)) for f in _FIELDS[kind]}}


def network_from(case: dict[str, Any]) -> Network:
    """The network of one case.

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
    """The case with its ``solution`` replaced by ours, in the same shape."""
    network = network_from(case)
    answer = network.solve()
    solution = {"nodes": network.node_volts(answer), "currents": network.element_currents(answer)}
    return {**case, "solution": solution}


def worst_deviation(expected: dict[str, Any], found: dict[str, Any]) -> float:
    """Largest relative deviation of the currents above 1 µA; smaller ones count against 1 µA."""
    currents = expected.get("currents", {})
    return max(
        (abs(found["currents"].get(name, 0.0) - value) / max(abs(value), 1e-6) for name, value in currents.items()),
        default=0.0,
    )

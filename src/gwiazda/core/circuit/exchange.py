"""Networks in the JSON form of the reference cases, and how far an answer is from a given one."""

from __future__ import annotations

from typing import Any

from gwiazda.core.circuit.diode import VT_300K
from gwiazda.core.circuit.network import Diode, Element, Network, Resistor, Source
from gwiazda.core.errors import CircuitError

_FIELDS = {
    "source": ("plus", "minus", "volts", "ohms"),
    "resistor": ("a", "b", "ohms"),
    "led": ("anode", "cathode", "is", "n", "rs"),
    "diode": ("anode", "cathode", "is", "n", "rs"),
}


def element_from(data: dict[str, Any]) -> Element:
    """One element; raises CircuitError naming it and the field."""
    if not isinstance(data, dict):
        raise CircuitError("Element", f"{data!r} is not an object", "an object with kind and id")
    kind, name = data.get("kind"), str(data.get("id", "without id"))
    if kind not in _FIELDS:
        raise CircuitError(f"Element {name}", f"kind {kind!r}", ", ".join(_FIELDS))
    for field in _FIELDS[kind]:
        value = data.get(field, 0.0 if (kind, field) == ("source", "ohms") else None)
        wants_text = field in ("plus", "minus", "a", "b", "anode", "cathode")
        good = isinstance(value, str) if wants_text else isinstance(value, (int, float)) and not isinstance(value, bool)
        if not good:
            raise CircuitError(
                f"Element {name}, {field}", f"found {value!r}", "a node name" if wants_text else "a number"
            )
    if kind == "source":
        return Source(name, data["plus"], data["minus"], float(data["volts"]), float(data.get("ohms", 0.0)))
    if kind == "resistor":
        return Resistor(name, data["a"], data["b"], float(data["ohms"]))
    return Diode(name, data["anode"], data["cathode"], float(data["n"]), float(data["is"]), float(data["rs"]), kind)


def network_from(case: dict[str, Any]) -> Network:
    """The network of one case."""
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

"""The shape of a network: which nodes are fixed, which elements follow one another, which nodes are left to solve."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Sequence
from typing import NamedTuple, Protocol

from gwiazda.core.errors import CircuitError


class TwoEnded(Protocol):
    """An element between two nodes."""

    @property
    def id(self) -> str:
        """Name in the network."""
        ...

    @property
    def ends(self) -> tuple[str, str]:
        """Its nodes, along its own direction."""
        ...


class Chain(NamedTuple):
    """Elements one after another: (element, +1 along its own direction or −1), and the nodes between."""

    start: str
    end: str
    links: tuple[tuple[int, float], ...]
    inner: tuple[str, ...]


class Layout(NamedTuple):
    """How a network folds.

    ``known``: node index → signed ideal sources that add up to its voltage; ``ideal_currents``: source → signed
    element currents that add up to its own, in an order in which each needs only earlier ones.
    """

    nodes: tuple[str, ...]
    number: dict[str, int]
    known: dict[int, tuple[tuple[int, float], ...]]
    free: tuple[str, ...]
    chains: tuple[Chain, ...]
    ideal_currents: tuple[tuple[int, tuple[tuple[int, float], ...]], ...]


def _is_ideal(element: TwoEnded) -> bool:
    return hasattr(element, "volts") and element.ohms == 0.0  # type: ignore[attr-defined]


def _is_diode(element: TwoEnded) -> bool:
    return hasattr(element, "is_a")


def lay_out(elements: Sequence[TwoEnded], ground: str, terminals: Sequence[str] = ()) -> Layout:
    """Fold a network; see the module ``network`` for how it is solved.

    ``terminals`` are the nodes of elements that aren't folded, one after the other: their currents count, in
    ``ideal_currents``, as if they were elements after the last one that lead away from their nodes.

    Parameters
    ----------
    elements : Sequence[TwoEnded]
        Two-ended elements of the network.
    ground : str
        Node that volts count from.
    terminals : Sequence[str]
        Nodes of elements that aren't folded, one after the other.

    Returns
    -------
    Layout
        Which nodes are left, and what each string between them is made of.
    """
    nodes = tuple(dict.fromkeys([ground, *(n for e in elements for n in e.ends), *terminals]))
    index = {node: i for i, node in enumerate(nodes)}
    tree, known = _fixed_nodes(elements, ground, index)
    touching: dict[str, list[int]] = defaultdict(list)
    for node in terminals:
        touching[node] = []
    for i, e in enumerate(elements):
        if i not in tree:
            for node in e.ends:
                touching[node].append(i)
    fixed = {nodes[i] for i in known} | {ground}
    hubs = _hubs(elements, touching, fixed | set(terminals))
    chains = _chains(elements, touching, hubs, tree)
    ends = dict.fromkeys(n for c in chains for n in (c.start, c.end)) | dict.fromkeys(terminals)
    free = tuple(n for n in ends if n not in fixed)
    return Layout(nodes, index, known, free, chains, _ideal_currents(elements, tree, terminals))


def _fixed_nodes(
    elements: Sequence[TwoEnded], ground: str, index: dict[str, int]
) -> tuple[dict[int, str], dict[int, tuple[tuple[int, float], ...]]]:
    """Nodes that ideal sources tie to the ground: (source → its far node, node → signed sources).

    Raises
    ------
    CircuitError
        When ideal sources contradict one another.
    """
    ideal: dict[str, list[int]] = defaultdict(list)
    for i, e in enumerate(elements):
        if _is_ideal(e):
            for node in e.ends:
                ideal[node].append(i)
    known: dict[int, tuple[tuple[int, float], ...]] = {index[ground]: ()}
    tree: dict[int, str] = {}
    queue = deque([ground])
    while queue:
        node = queue.popleft()
        for i in ideal[node]:
            if i in tree:
                continue
            minus, plus = elements[i].ends
            far, sign = (plus, 1.0) if node == minus else (minus, -1.0)
            if index[far] in known:
                raise CircuitError(
                    f"Source {elements[i].id}",
                    "lies across other sources without any resistance",
                    "an internal resistance above zero for one of them",
                )
            known[index[far]] = (*known[index[node]], (i, sign))
            tree[i] = far
            queue.append(far)
    return tree, known


def _hubs(elements: Sequence[TwoEnded], touching: dict[str, list[int]], fixed: set[str]) -> set[str]:
    """Nodes where a chain has to end: fixed ones, junctions, and where two diodes stand against each other."""
    hubs = set(fixed)
    for node, around in touching.items():
        if len(around) != 2 or around[0] == around[1]:
            hubs.add(node)
    # Two diodes that meet head to head along a chain can't share one current direction.
    facing: dict[str, int] = {}
    for node, around in touching.items():
        if node in hubs:
            continue
        for first in around:
            if not _is_diode(elements[first]):
                continue
            direction = 1 if elements[first].ends[0] == node else -1
            seen, at, previous = {node}, node, first
            while at not in hubs:
                a, b = touching[at]
                current = b if a == previous else a
                if _is_diode(elements[current]):
                    other = 1 if elements[current].ends[1] == at else -1
                    if other != direction:
                        facing[at] = 1
                        hubs.add(at)
                    break
                ends = elements[current].ends
                at, previous = (ends[1] if ends[0] == at else ends[0]), current
                if at in seen:
                    break
                seen.add(at)
    # A ring that touches no hub floats; one node of it has to stand in.
    for node in list(touching):
        if node in hubs:
            continue
        seen, at = {node}, node
        previous = touching[node][0]
        while True:
            a, b = touching[at]
            current = b if a == previous else a
            ends = elements[current].ends
            at, previous = (ends[1] if ends[0] == at else ends[0]), current
            if at in hubs:
                break
            if at in seen:
                hubs.add(at)
                break
            seen.add(at)
    return hubs


def _chains(
    elements: Sequence[TwoEnded], touching: dict[str, list[int]], hubs: set[str], tree: dict[int, str]
) -> tuple[Chain, ...]:
    used = set(tree)
    chains = []
    for hub in [n for n in touching if n in hubs]:
        for first in touching[hub]:
            if first in used:
                continue
            links: list[tuple[int, float]] = []
            inner: list[str] = []
            at, current = hub, first
            while True:
                used.add(current)
                a, b = elements[current].ends
                links.append((current, 1.0 if a == at else -1.0))
                at = b if a == at else a
                if at in hubs:
                    break
                inner.append(at)
                one, two = touching[at]
                current = two if one == current else one
            diode_sign = next((s for i, s in links if _is_diode(elements[i])), 1.0)
            if diode_sign > 0:
                chains.append(Chain(hub, at, tuple(links), tuple(inner)))
            else:
                turned = tuple((i, -s) for i, s in reversed(links))
                chains.append(Chain(at, hub, turned, tuple(reversed(inner))))
    return tuple(chains)


def _ideal_currents(
    elements: Sequence[TwoEnded], tree: dict[int, str], terminals: Sequence[str]
) -> tuple[tuple[int, tuple[tuple[int, float], ...]], ...]:
    """Kirchhoff's current law at the far node of each ideal source, from the leaves of the tree inwards."""
    at_node: dict[str, list[tuple[int, float]]] = defaultdict(list)
    for i, e in enumerate(elements):
        a, b = e.ends
        at_node[a].append((i, 1.0))  # leaves the node
        at_node[b].append((i, -1.0))  # enters it
    for k, node in enumerate(terminals):
        at_node[node].append((len(elements) + k, 1.0))
    out = []
    for source, far in reversed(list(tree.items())):
        own = next(sign for i, sign in at_node[far] if i == source)
        terms = tuple((i, -sign * own) for i, sign in at_node[far] if i != source)
        out.append((source, terms))
    return tuple(out)

"""What of a plan is soldered on boards of holes: its timers, counters and stages, and the resistors of its strings; as netlists with their values.

Sources
-------
[1] Pins as common data sheets give them. Timer (555 kind), eight pins: minus, trigger, output, reset, control, threshold, discharge, plus. Counter
    (4017 kind), sixteen: outputs 5, 1, 0, 2, 6, 7, 3, minus, outputs 8, 4, 9, carry, inhibit, clock, reset, plus.
[2] House values: 100 nF between plus and minus at each chip, 10 nF from a timer's control pin, 100 kΩ that keep a MOSFET's gate down.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from gwiazda.core.assess.electrics.stage import base_ohm
from gwiazda.core.assess.show.outputs import OutputState, board_name, cues_on, outputs_of, strings_on
from gwiazda.core.assess.states import Assessment, BranchState
from gwiazda.core.circuit.series import bands
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board, Plan
from gwiazda.core.plan.model import Counter as Stepped
from gwiazda.core.plan.naming import channel_name, name_of, names_of
from gwiazda.core.protoboard.layout import Component, Kind
from gwiazda.core.protoboard.place import MOST_PARTS
from gwiazda.core.quantities import figure, letter_code

PLUS, MINUS = "plus", "minus"
CAN_FROM_UF = 1.0  # capacitors from here on are cans with a plus
OUTPUT_PINS = (3, 2, 4, 7, 10, 1, 5, 6, 9, 11)  # of a counter, outputs 0 to 9
KINDS: dict[str, Kind] = {"strip board": "strip", "pad board": "pad"}
NAMED = 2
STAGE_PARTS = 2  # a transistor and its resistor
AT_LAMPS = "The strings’ resistors stay at their lamps: they would be too many for this board."
LEGS = "The legs of a transistor differ from kind to kind: look at its data sheet, and bend them to these holes."


class MadeBoard(NamedTuple):
    """A board of holes: what is on it, what to mind, why it can't be made yet ("" where it can); its resistors (Ω) that no circuit of the plan has."""

    id: str
    name: str
    kind: Kind
    components: tuple[Component, ...]
    notes: tuple[str, ...] = ()
    fault: str = ""
    ohms: tuple[float, ...] = ()

    @property
    def pins(self) -> int:
        """Joints to solder."""
        return sum(len(c.nets) for c in self.components)


def made_boards(plan: Plan, assessment: Assessment) -> tuple[MadeBoard, ...]:
    """All boards of holes that a plan asks for."""
    return (*_of_boards(plan, assessment), *resistor_boards(plan, assessment))


def board_made(plan: Plan, assessment: Assessment, board: Board) -> tuple[MadeBoard, ...]:
    """What is soldered for one board: the timer or counter itself, and the stages behind a board that is bought."""
    kind = KINDS.get(board.made)
    if kind is None:
        return ()
    part = assessment.catalogue.boards.get(board.part)
    mine = [o for o in outputs_of(plan, assessment) if o.board == board.id]
    name = board_name(plan, board.id, assessment.catalogue)
    if part is None:
        return ()
    maker = _Netlist(plan, assessment)
    if part.kind == "timer":
        return (maker.timer(board, name, kind, mine),)
    if part.kind == "counter":
        return (maker.counter(board, name, kind, mine),)
    own = assessment.catalogue.drives[part.drive].kind != "pin"  # its outputs are stages already
    staged = [o for o in mine if o.stage and not own]
    if not staged:
        return (
            MadeBoard(
                board.id,
                name,
                kind,
                (),
                (),
                "A board of this kind is bought, and its outputs drive their lamps without stages: there is nothing to solder.",
            ),
        )
    most = MOST_PARTS // 2
    groups = [staged[k : k + most] for k in range(0, len(staged), most)]
    return tuple(
        _Netlist(plan, assessment).stages(board, f"{name}, stages" + (f" {k}" if len(groups) > 1 else ""), kind, g, k)
        for k, g in enumerate(groups, 1)
    )


def _of_boards(plan: Plan, assessment: Assessment) -> Iterator[MadeBoard]:
    for board in plan.boards:
        yield from board_made(plan, assessment, board)


def resistor_boards(plan: Plan, assessment: Assessment) -> Iterator[MadeBoard]:
    """The resistors of a source's strings on one board, or on as many as it takes; those on a board of their own are there."""
    kind = KINDS.get(plan.loom.resistors)
    if kind is None:
        return
    elsewhere = {
        o.channel
        for o in outputs_of(plan, assessment)
        if any(b.id == o.board and b.made != "bought" for b in plan.boards)
    }
    for feed in plan.feeds:
        mine = [
            b for b in assessment.branches.values()
            if b.feed == feed.id and b.resistor_ohm > 0.0 and assessment.lamps[b.lamps[0]].channel not in elsewhere
        ]  # fmt: skip
        groups = [mine[k : k + MOST_PARTS] for k in range(0, len(mine), MOST_PARTS)]
        for number, group in enumerate(groups, 1):
            netlist = _Netlist(plan, assessment)
            netlist.lead("plus of the source", PLUS)
            for b in group:
                netlist.string(b, PLUS)
            name = f"Resistors of {name_of(plan, feed.id)}" + (
                f", {number} of {len(groups)}" if len(groups) > 1 else ""
            )
            yield MadeBoard(
                f"{feed.id}.resistors.{number}",
                name,
                kind,
                tuple(netlist.parts),
                ("All minus leads meet apart from it.",),
            )


class _Netlist:
    """Parts being gathered, with their numbers."""

    def __init__(self, plan: Plan, assessment: Assessment) -> None:
        self.plan, self.assessment = plan, assessment
        self.parts: list[Component] = []
        self._numbers: dict[str, int] = {}
        self.ohms: list[float] = []
        self.elsewhere = False  # whether resistors of strings found no room

    def add(self, letter: str, value: str, shape: str, *nets: str) -> Component:
        self._numbers[letter] = self._numbers.get(letter, 0) + 1
        made = Component(f"{letter}{self._numbers[letter]}", value, shape, nets)  # type: ignore[arg-type]
        self.parts.append(made)
        return made

    def resistor(self, ohm: float, a: str, b: str, counted_elsewhere: bool = False) -> None:
        self.add("R", letter_code(ohm), "axial", a, b)
        if not counted_elsewhere:
            self.ohms.append(ohm)

    def lead(self, to: str, net: str) -> None:
        self.add("W", to, "lead", net)

    def string(self, branch: BranchState, net: str) -> None:
        """A string's resistor, and the wire to its lamps."""
        far = f"lamps {len(self.parts)}"
        self.resistor(branch.resistor_ohm, net, far, True)
        self.lead(f"to {names_of(self.plan, branch.lamps, NAMED)}", far)

    def supply(self) -> None:
        self.lead("plus", PLUS)
        self.lead("minus", MINUS)

    def output(self, o: OutputState, pin: str) -> None:
        """What hangs on an output: its strings straight away, or through a stage."""
        strings = [b for b in strings_on(self.assessment, o.channel) if b.resistor_ohm > 0.0]
        if len(strings) + STAGE_PARTS + sum(p.shape not in ("dip", "lead") for p in self.parts) > MOST_PARTS:
            strings = []  # more than one board holds: they stay at their lamps
            self.elsewhere = True
        if not o.stage:
            for b in strings:
                self.string(b, pin)
            if not strings:
                self.lead(f"to {channel_name(self.plan, o.channel)}", pin)
            return
        self.stage(o, pin)
        for b in strings:
            self.string(b, PLUS)

    def stage(self, o: OutputState, pin: str) -> None:
        """A transistor between an output and the minus of its lamps."""
        catalogue = self.assessment.catalogue
        part, node = catalogue.drives[o.stage], edits.outputs_of_channels(self.plan).get(o.channel)
        gate, drain = f"gate {len(self.parts)}", f"switched {len(self.parts)}"
        if part.kind == "mosfet":
            self.add("Q", part.name, "to92", pin, drain, MINUS)
            self.resistor(1e5, pin, MINUS)
        else:
            ohm = node.ohm if node is not None and node.ohm else None
            if ohm is None:
                shelf = shelf_of(self.plan.drawer.series, catalogue.resistors)
                ohm = base_ohm(catalogue.drives.get(node.drive if node is not None else ""), o.full_a, shelf)
            self.resistor(ohm, pin, gate, bool(node is not None and node.ohm))
            self.add("Q", part.name, "to92", MINUS, gate, drain)
        self.lead(f"minus of {channel_name(self.plan, o.channel)}", drain)

    def timer(self, board: Board, name: str, kind: Kind, outputs: Sequence[OutputState]) -> MadeBoard:
        if not (board.r1_ohm and board.r2_ohm and board.c_uf):
            return MadeBoard(board.id, name, kind, (), (), "R1, R2 and the capacitor of its timer first.")
        part = self.assessment.catalogue.boards[board.part]
        self.add("U", part.name, "dip", MINUS, "timing", "output", PLUS, "control", "timing", "discharge", PLUS)
        self.resistor(board.r1_ohm, PLUS, "discharge")
        self.resistor(board.r2_ohm, "discharge", "timing")
        if board.diode:
            self.add("D", "small signal diode", "diode", "discharge", "timing")
        self.add("C", f"{figure(board.c_uf)} µF", "can" if board.c_uf >= CAN_FROM_UF else "disc", "timing", MINUS)
        self.add("C", "10 nF", "disc", "control", MINUS)
        self.add("C", "100 nF", "disc", PLUS, MINUS)
        self.supply()
        for o in outputs:
            self.output(o, "output")
        if not outputs:
            self.lead("output", "output")
        return self.made(board.id, name, kind)

    def made(self, id_: str, name: str, kind: Kind) -> MadeBoard:
        """What was gathered."""
        notes = (*_notes(self.parts), *((AT_LAMPS,) if self.elsewhere else ()))
        return MadeBoard(id_, name, kind, tuple(self.parts), notes, ohms=tuple(self.ohms))

    def counter(self, board: Board, name: str, kind: Kind, outputs: Sequence[OutputState]) -> MadeBoard:
        """A counter; its clock comes by a wire from a timer that is a board of its own."""
        part = self.assessment.catalogue.boards[board.part]
        steps = _steps(self.plan, outputs)
        used = len(steps) if steps else max((o.output for o in outputs), default=part.outputs)
        nets = [""] * 16
        for k in range(used):
            nets[OUTPUT_PINS[k] - 1] = f"output {k + 1}"
        nets[8 - 1], nets[16 - 1], nets[13 - 1], nets[14 - 1] = MINUS, PLUS, MINUS, "clock"
        # The first output that isn't used sets it back.
        nets[15 - 1] = "back" if used < len(OUTPUT_PINS) else MINUS
        if used < len(OUTPUT_PINS):
            nets[OUTPUT_PINS[used] - 1] = "back"
        self.add("U", "counter, 4017 kind", "dip", *nets)
        self.add("C", "100 nF", "disc", PLUS, MINUS)
        self.supply()
        self.lead("clock, from the timer", "clock")
        if steps:
            for k, ohm in enumerate(steps, 1):
                if ohm > 0.0:
                    # Without the diode the outputs that are low would take what one gives.
                    self.add("D", "small signal diode", "diode", f"output {k}", f"step {k}")
                    self.resistor(ohm, f"step {k}", "lamps")
            self.lead(f"to {channel_name(self.plan, outputs[0].channel)}", "lamps")
        else:
            for o in outputs:
                self.output(o, f"output {o.output}")
        return self.made(board.id, name, kind)

    def stages(self, board: Board, name: str, kind: Kind, outputs: Sequence[OutputState], number: int) -> MadeBoard:
        self.lead("minus, joined with the board’s", MINUS)
        for o in outputs:
            pin = f"pin {o.output}"
            self.lead(f"pin {o.output}", pin)
            self.stage(o, pin)
        return self.made(f"{board.id}.stages.{number}", name, kind)


def _steps(plan: Plan, outputs: Sequence[OutputState]) -> tuple[float, ...]:
    """The resistors of a counter that steps one channel through them; empty for one that runs over several."""
    for o in outputs:
        for cue in cues_on(plan, o.channel):
            if isinstance(cue.does, Stepped):
                return cue.does.ohms
    return ()


def _notes(parts: Sequence[Component]) -> tuple[str, ...]:
    notes = []
    if any(p.shape == "dip" for p in parts):
        notes.append("Solder a socket, and push the chip in last: its notch lies where pin 1 is marked.")
    if any(p.shape == "can" for p in parts):
        notes.append("A can's stripe is minus; the other leg goes to the hole with the plus.")
    if any(p.shape == "diode" for p in parts):
        notes.append("A diode's ring lies at the hole with the bar.")
    if any(p.shape == "to92" for p in parts):
        notes.append(LEGS)
    return tuple(notes)


def soldered_whole(catalogue: Catalogue, board: Board) -> bool:
    """Whether nothing of a board is bought ready."""
    part = catalogue.boards.get(board.part)
    return board.made in KINDS and part is not None and part.kind in ("timer", "counter")


def bought_for(board: MadeBoard) -> Counter[tuple[str, str, str]]:
    """What a board takes besides what the circuits of the plan list: kind, part, words."""
    out: Counter[tuple[str, str, str]] = Counter()
    for c in board.components:
        if c.shape == "dip":
            out["chip", c.value, f"{len(c.nets)} pins"] += 1
            out["chip", f"socket, {len(c.nets)} pins", "dual in line"] += 1
        elif c.shape in ("disc", "can"):
            out["capacitor", c.value, "a can, stripe minus" if c.shape == "can" else "either way round"] += 1
        elif c.shape == "diode":
            out["diode", "small silicon diode", c.value] += 1
    if board.components:
        out["board", f"{board.kind} board", "a piece, with holes 2.54 mm apart"] += 1
    return out


def parts_list(board: MadeBoard, series: str) -> tuple[tuple[str, str, str], ...]:
    """What is needed for a board: its marks, what it is, how to tell it."""
    found: dict[tuple[str, str], list[str]] = {}
    for c in board.components:
        if c.shape != "lead":
            found.setdefault((c.shape, c.value), []).append(c.ref)
    out = []
    for (shape, value), refs in found.items():
        what, tell = WHAT[shape].format(value=value), ""
        if shape == "axial":
            tell = " ".join(bands(_ohm(value), series))
        elif shape in TELL:
            tell = TELL[shape]
        out.append((", ".join(refs), what, tell))
    return tuple(out)


WHAT = {
    "axial": "resistor {value}",
    "diode": "{value}",
    "disc": "capacitor {value}",
    "can": "capacitor {value}",
    "dip": "{value}",
    "to92": "{value}",
}
TELL = {"diode": "ring: minus", "can": "stripe: minus", "dip": "notch at pin 1", "to92": "legs by its data sheet"}


def _ohm(code: str) -> float:
    from gwiazda.core.quantities import parse_resistance_ohm

    return parse_resistance_ohm(code)

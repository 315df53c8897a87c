"""The scratch line: a circuit, or the bands of a resistor, in the words of the bench.

A line is read from left to right, in pieces: lamps (``3 white``, ``8 warm 0603``, joined by ``+``), how they hang (``in
series``, ``sharing``, ``each``), a source (``on 9 V``, ``9 V block``, ``2 AA``, ``USB``), what is wanted (``5 mA``, ``barely``),
a resistor (``330``, ``4k7``). The whole grammar is in ``docs/scratch-line.md``. What isn't clear is asked back with choices.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from difflib import get_close_matches
from typing import Any, Literal, NamedTuple, TypeVar

from gwiazda.core.circuit.parts.identify import Points, identified
from gwiazda.core.circuit.series import COLOURS, value_of_bands, values
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.errors import CircuitError, QuantityError
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.quantities import (
    counted,
    figure,
    format_current,
    format_resistance,
    parse_current_a,
    parse_resistance_ohm,
    parse_voltage_v,
)

T = TypeVar("T")
Hang = Literal["each", "series", "shared"]
LAMP_COLOURS = {
    "warm white": "warm white", "warm": "warm white", "cool white": "cool white", "cold white": "cool white",
    "cool": "cool white", "neutral white": "neutral white", "neutral": "neutral white", "white": "cool white",
    "yellow-green": "yellow-green", "yellow": "amber", "amber": "amber", "orange": "orange", "red": "red",
    "green": "green", "blue": "blue",
}  # fmt: skip
BODIES = {
    "0402": "chip-0402", "0603": "chip-0603", "0805": "chip-0805", "1206": "chip-1206", "3528": "chip-3528",
    "5050": "chip-5050", "1.8 mm": "round-1.8", "2 mm": "tube-2", "3 mm": "round-3", "5 mm": "round-5", "8 mm": "round-8",
    "10 mm": "round-10", "frosted 3 mm": "round-3-frosted", "frosted 5 mm": "round-5-frosted", "flat 3 mm": "flat-3",
    "flat 5 mm": "flat-5",
}  # fmt: skip
NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
USUAL_BODY = "3 mm"
LOOKS = ("barely", "soft", "quarter", "half", "normal", "bright", "full")
# How bright to the eye, of a lamp at its rated current, where nobody knows what it is for: half as bright takes a sixth of the light.
STEPS = {"barely": 0.15, "soft": 0.4, "quarter": 0.25, "half": 0.5, "normal": 0.6, "bright": 0.8, "full": 1.0}
MOST_LAMPS = 200
UNSAID = "half as bright to the eye as in full"  # where nothing was said of how bright
LEAST_OHM = 10.0  # less is a slip of the pen, and burns lamps out
CELLS = {"aa": "aa-alkaline", "aaa": "aaa-alkaline", "c": "c-alkaline", "d": "d-alkaline", "nimh": "aa-nimh", "li-ion": "li-ion-18650"}  # fmt: skip
WORDS = (
    *LAMP_COLOURS, *BODIES, *LOOKS, "in series", "sharing one resistor", "each own resistor", "on", "at", "9 V block",
    "6 V stack", "coin cell", "USB", "2 AA", "3 AAA", "mA", "ohm", "reads", "slip", *COLOURS,
)  # fmt: skip


class QuickError(QuantityError):
    """What of a line isn't clear, and what would be, said as at the next bench."""

    def __init__(self, where: str, found: str, accepted: str) -> None:
        super().__init__(where, found, accepted)
        self.sentence = f"{found[:1].upper()}{found[1:]}. Try {accepted}."

    def __str__(self) -> str:
        return self.sentence


class Group(NamedTuple):
    number: int
    part: LampPart


class Asked(NamedTuple):
    """A circuit as it was asked for. ``look`` or ``current_a`` says how bright; ``taken`` what was assumed, in words."""

    groups: tuple[Group, ...]
    hang: Hang
    source: str
    in_series: int = 1
    volts: float | None = None
    current_a: float | None = None
    look: str | None = None
    ohm: float | None = None
    taken: tuple[str, ...] = ()
    shares: int = 1  # strings, or resistors that lamps share, that they are parted among


class Bands(NamedTuple):
    """A resistor read off its bands: value (Ω), tolerance as a share, the colours as they are read."""

    ohm: float
    tolerance: float
    colours: tuple[str, ...]
    turned: bool

    def lines(self) -> tuple[str, ...]:
        """The card as text."""
        share = figure(self.tolerance * 100.0)
        low, high = (format_resistance(self.ohm * (1.0 + s * self.tolerance)) for s in (-1, 1))
        out = [f"{format_resistance(self.ohm)} ± {share} %: {' '.join(self.colours)}", f"from {low} to {high}"]
        if self.turned:
            out.append("read from the other end: gold and silver are no digits")
        return tuple(out)


class Slip(NamedTuple):
    """A resistor for a lamp by its seller's slip: what the slip says (V, A), the source's volts, the value (Ω)."""

    low_v: float
    high_v: float
    current_a: float
    source_v: float
    ohm: float

    def lines(self) -> tuple[str, ...]:
        """The card as text."""
        volts = (self.low_v + self.high_v) / 2.0
        least, most = ((self.source_v - v) / self.ohm for v in (self.high_v, self.low_v))
        found = f"({figure(self.source_v)} V − {figure(volts)} V) / {format_current(self.current_a)}"
        out = [
            f"on {figure(self.source_v)} V: {format_resistance(self.ohm)}, the next at or above {found}; it gives {format_current((self.source_v - volts) / self.ohm)}"
        ]
        if self.high_v > self.low_v:
            out.append(f"as the slip strays: {format_current(max(least, 0.0))} to {format_current(most)}")
        out.append(
            f"that is full light, and {figure(self.current_a**2 * self.ohm * 1e3, 2)} mW in the resistor; for a softer look take several times as much"
        )
        return tuple(out)


class Identified(NamedTuple):
    """A lamp of unknown make: what was read of it (A, V), the families it may be (likeliest first, 0 to 1), what is taken."""

    readings: tuple[tuple[float, float], ...]
    guesses: tuple[tuple[str, float], ...]
    colours: tuple[tuple[str, ...], ...]
    taken: tuple[str, ...]
    slip: Slip | None = None

    def lines(self) -> tuple[str, ...]:
        """The card as text."""
        seen = ", ".join(f"{figure(v, 3)} V at {format_current(i)}" for i, v in self.readings)
        out = [f"A lamp with {seen}"]
        for (_, likely), colours in zip(self.guesses, self.colours, strict=True):
            if likely >= 0.05:
                out.append(f"{figure(likely * 100.0, 2)} %: {', '.join(colours)}")
        if len([1 for _, likely in self.guesses if likely >= 0.05]) > 1 or len(self.colours[0]) > 1:
            out.append("what shares a chip can’t be told apart by its voltage: look at its light")
        if len(self.readings) == 1:
            out.append("one reading more, at another current, makes it surer")
        if self.slip is not None:
            out += self.slip.lines()
        return (*out, *(f"taken: {t}" for t in self.taken))


def plain(text: str) -> str:
    """A line as it is read: small letters, single blanks, the signs of a keyboard."""
    return re.sub(
        r"\s+", " ", text.strip().lower().replace("×", "x").replace("µ", "u").replace("ω", "ohm").replace("?", " ")
    ).strip()


def read(text: str, catalogue: Catalogue, series: str = "E12") -> Asked | Bands | Identified:
    """Read a line; ``series`` is what the drawer holds.

    Raises
    ------
    QuickError
        Naming the word that isn't clear, with what could be meant.
    """
    line = plain(text)
    # A number in words counts lamps or cells; “one resistor” says how they hang.
    spelt = r"\b(" + "|".join(NUMBERS) + r")\b(?! (?:shared |same )?(?:resistor|string)\b)"
    line = re.sub(spelt, lambda m: str(NUMBERS.index(m[1]) + 1), line)
    if not line:
        raise QuickError("Scratch line", "it is empty", "“3 white in series on 9 V block at 5 mA”")
    if len(line) > 300:
        raise QuickError("Scratch line", f"{len(line)} letters", "up to 300")
    words = re.split(r"[\s,/-]+", line)
    if 3 <= len(words) <= 6 and all(w in _BAND_WORDS for w in words):
        colours = tuple(_BAND_WORDS[w] for w in words)
        found = value_of_bands(colours)
        if found is None:
            raise QuickError(
                "Bands",
                f"“{' '.join(words)}” is no resistor",
                "two or three digits, a multiplier, a tolerance such as gold",
            )
        return Bands(*found)
    if (unknown := _unknown_lamp(line, catalogue, series)) is not None:
        return unknown
    return _Reader(line, catalogue).circuit()


def _slip_on(
    found: re.Match[str], low: float, high: float, current: float, catalogue: Catalogue, series: str
) -> Slip | None:
    """The resistor for a slip's lamp on the source named behind it."""
    if not found[4]:
        return None
    reader = _Reader(found[4], catalogue)
    if not reader.volts_only():
        raise QuickError("Slip", f"“{found[4]}” is no source", "“on 9 V”, “on 9 V block”, “on 2 AA” or “on USB”")
    volts = reader.nominal_v()
    middle = (low + high) / 2.0
    if volts <= middle:
        raise QuickError(
            "Slip",
            f"{figure(volts)} V are not enough for a lamp of {figure(middle)} V",
            "more cells, or another source",
        )
    return Slip(
        low, high, current, volts, shelf_of(series, catalogue.resistors).at_or_above((volts - middle) / current)
    )


def _unknown_lamp(line: str, catalogue: Catalogue, series: str) -> Identified | None:
    """``reads 1.85 V at 2 mA, 2.0 V at 15 mA`` or ``slip 3.0 to 3.4 V 20 mA on 9 V``: a lamp of unknown make."""
    taken: list[str] = []
    resistor: Slip | None = None
    slip = rf"slip(?: says)? ({_NUMBER})(?: ?v)?(?: ?(?:-|–|to|\.\.) ?({_NUMBER}))?(?: ?v)?,?(?: at)? ({_NUMBER} ?[mu]?a),?(?: (on .+))?"
    if found := re.fullmatch(slip, line):
        low = parse_voltage_v(found[1])
        high = parse_voltage_v(found[2]) if found[2] else low
        if high < low:
            raise QuickError("Slip", f"{figure(low)} to {figure(high)} V", "the lower voltage first")
        if found[2]:
            taken.append(
                f"{figure((low + high) / 2.0)} V as its typical voltage: with the least one a resistor comes out for the "
                "unluckiest of the bag"
            )
        current = _with_limits(parse_current_a, found[3].replace(" ", ""), "Slip", 1e-5, 2.0, "10 µA to 2 A")
        readings = [(current, (low + high) / 2.0)]
        resistor = _slip_on(found, low, high, current, catalogue, series)
    elif line.startswith(("reads ", "read ", "unknown ")):
        pieces = re.findall(
            rf"({_NUMBER}) ?v(?: at)? ({_NUMBER} ?[mu]?a)|({_NUMBER} ?[mu]?a)(?: at)? ({_NUMBER}) ?v", line
        )
        readings = [(parse_current_a((b or c).replace(" ", "")), parse_voltage_v(a or d)) for a, b, c, d in pieces]
        if not readings:
            raise QuickError("Readings", "there are none in it", "“reads 1.85 V at 2 mA, 2.0 V at 15 mA”")
    else:
        return None
    families = {f.id: Points(f.v20_v, f.v1_v, f.rs_ohm, f.spread_v) for f in catalogue.families.values()}
    try:
        guesses = identified(readings, families)
    except CircuitError:
        raise QuickError("Readings", "they are no forward ones", "0.5 to 15 V, and a current") from None
        # Families of one chip are one answer: they can't be told apart.
    merged: dict[Points, tuple[list[str], float]] = {}
    for g in guesses:
        names, likely = merged.get(families[g.family], ([], 0.0))
        merged[families[g.family]] = ([*names, g.family], likely + g.likely)
    ranked = sorted(merged.values(), key=lambda m: -m[1])
    colours = tuple(
        tuple(dict.fromkeys(p.colour for p in catalogue.lamps.values() if p.family in names)) or tuple(names)
        for names, _ in ranked
    )
    return Identified(
        tuple(readings), tuple((names[0], likely) for names, likely in ranked), colours, tuple(taken), resistor
    )


_KNOWN = (
    "|".join(sorted({re.escape(w) for entry in WORDS for w in entry.lower().split()}, key=len, reverse=True))
    + r"|with|and|from|\d.*"
)
_BAND_WORDS = {**{c: c for c in COLOURS}, "purple": "violet", "gray": "grey"}
_NUMBER = r"\d+(?:[.,]\d+)?"


class _Reader:
    def __init__(self, line: str, catalogue: Catalogue) -> None:
        self.rest, self.catalogue = line, catalogue
        self.groups: list[Group] = []
        self.hang: Hang | None = None
        self.shares: int | None = None  # strings, or resistors
        self.source: str | None = None
        self.cells, self.volts = 1, None  # type: int, float | None
        self.current: float | None = None
        self.look: str | None = None
        self.ohm: float | None = None
        self.taken: list[str] = []

    def take(self, pattern: str) -> re.Match[str] | None:
        found = re.match(rf"(?:{pattern})(?=$|[\s,+;])", self.rest)
        if found:
            self.rest = self.rest[found.end() :].lstrip(" ,+;")
        return found

    def circuit(self) -> Asked:
        steps: tuple[Callable[[], bool], ...] = (
            self._hang, self._source, self._wanted, self._lamps, self._resistor, self._filler,
        )  # fmt: skip
        while self.rest:
            if not any(step() for step in steps):
                self._unclear()
        if not self.groups:
            raise QuickError("Scratch line", "no lamps are named", "“3 warm 0603” or “2 red 3 mm”")
        if self.source is None:
            raise QuickError(
                "Scratch line", "it says on what they hang nowhere", "“on 9 V block”, “on USB”, “on 2 AA” or “on 12 V”"
            )
        count = sum(g.number for g in self.groups)
        if count > MOST_LAMPS:
            raise QuickError("Scratch line", f"{count} lamps", f"up to {MOST_LAMPS}")
        if self.shares is not None and self.shares > count:
            what = "strings" if self.hang == "series" else "resistors"
            raise QuickError("Scratch line", f"{self.shares} {what} for {counted(count, 'lamp')}", f"up to {count}")
        if self.hang is None and self.shares is not None:
            self.hang = "each" if self.shares == count else "shared"
        hang = self.hang or ("shared" if self.ohm is not None and count > 1 else "each")
        shares = self.shares if self.shares is not None and hang != "each" else 1
        if shares > 1:
            many = sorted({len(x) for x in parted(list(range(count)), shares)}, reverse=True)
            each = " or ".join(map(str, many))
            self.taken.append(f"{each} lamps {'a string' if hang == 'series' else 'on each resistor'}")
        if self.hang is None and count > 1:
            self.taken.append("all behind that one resistor" if hang == "shared" else "each with a resistor of its own")
        if self.current is None and self.look is None and self.ohm is None:
            self.look = "half"
            self.taken.append(UNSAID)
        return Asked(
            tuple(self.groups), hang, self.source, self.cells, self.volts, self.current, self.look, self.ohm,
            tuple(dict.fromkeys(self.taken)), shares,
        )  # fmt: skip

    def volts_only(self) -> bool:
        """Whether all of the line is a source."""
        return self._source() and not self.rest

    def nominal_v(self) -> float:
        """Volts of the source that was named."""
        assert self.source is not None
        return self.volts or self.cells * self.catalogue.sources[self.source].nominal_v

    def _filler(self) -> bool:
        return bool(
            self.take(
                r"and|with|on|at|from|behind|a|an|the|of|,|\+|lamps?|leds?|please|(?:which |what )?resistors? for|long|does|will|is|are|can|my|last(?:s|ing)?|which|what|i|need|for|to|run|drive|light|how|do|wire|connect"
            )
        )

    def _hang(self) -> bool:
        if found := self.take(r"(?:sharing |behind |on |with |in )?(?:(?:one|1) (resistor|string|row)|(\d{1,2}) (resistors|strings|rows))(?! each)"):  # fmt: skip
            number, strings = int(found[2] or 1), not (found[1] or found[3]).startswith("resistor")
            if number < 1 or self.shares not in (None, number):
                raise QuickError("Scratch line", f"“{found[0]}” says it twice, or of none", "one of them")
            self.shares = number
            if strings or number == 1:
                self._hangs("series" if strings else "shared")
            return True
        for pattern, hang in (
            (r"(?:all )?in series|series|in a string|one string", "series"),
            (r"each (?:with |behind )?(?:its |their |a |an )?(?:own )?(?:resistors?)?|(?:a |own )resistors? each|own resistors?|each", "each"),
            (r"sharing(?! \d+ resistor)(?: one| a)?(?: resistor)?|(?:on |behind )?(?:one|a shared|shared|the same) resistor|in parallel|parallel|side by side", "shared"),
        ):  # fmt: skip
            if self.take(pattern):
                self._hangs(hang)
                return True
        return False

    def _hangs(self, hang: str) -> None:
        if self.hang is not None and self.hang != hang:
            raise QuickError("Scratch line", "they can't hang both ways", "one of “in series”, “sharing”, “each”")
        self.hang = hang  # type: ignore[assignment]

    def _source(self) -> bool:
        lead = r"(?:(?:on|from|off) )?(?:an? )?"
        if found := self.take(lead + r"(?:(\d+) ?x? ?)?(aaa|aa|c|d)(?: (nimh|alkaline))?(?: cells?| batter(?:y|ies))?"):
            kind = "nimh" if found[3] == "nimh" and found[2] == "aa" else found[2]
            return self._found(CELLS[kind], int(found[1] or 1))
        if found := self.take(lead + r"(?:(\d+) ?x? ?)?(?:li-?ion|18650)(?: cells?)?"):
            return self._found(CELLS["li-ion"], int(found[1] or 1))
        if found := self.take(lead + r"(?:(\d+) ?x? ?)?(?:cr ?2032|coin)(?: cells?)?"):
            return self._found("coin-cr2032", int(found[1] or 1))
        if self.take(lead + r"usb"):
            return self._found("usb-5v")
        if self.take(lead + r"6 ?v stack"):
            return self._found("stack-6v")
        if self.take(lead + r"9 ?v (?:block|battery)|" + lead + r"block"):
            return self._found("block-9v")
        if found := self.take(
            lead + rf"({_NUMBER} ?v(?:olts?| ?dc)?|\d+v\d)(?: (unregulated))?(?: (?:adapter|supply|adaptor))?"
        ):
            volts = parse_voltage_v(found[1])
            kinds = ("unregulated",) if found[2] else ("regulated",)
            same = [s for s in self.catalogue.sources.values() if s.kind in kinds and abs(s.nominal_v - volts) < 1e-6 and not s.adjustable and s.id != "usb-5v"]  # fmt: skip
            if same:
                self.taken.append(f"{figure(volts)} V from an adapter")
                return self._found(same[0].id)
            turned = next((s for s in self.catalogue.sources.values() if s.adjustable), None)
            if turned is not None and kinds == ("regulated",) and 3.0 <= volts <= 12.0:
                self.volts = volts
                self.taken.append(f"{figure(volts)} V set on an adapter")
                return self._found(turned.id)
            known = sorted({figure(s.nominal_v) for s in self.catalogue.sources.values() if s.kind in kinds}, key=float)
            raise QuickError(
                "Source",
                f"there is none of {figure(volts)} V",
                f"{', '.join(known)} V, a 9 V block, a 6 V stack, cells or USB",
            )
        return False

    def _found(self, source: str, cells: int = 1) -> bool:
        if self.source is not None:
            raise QuickError("Scratch line", "it names two sources", "one")
        if not 1 <= cells <= 40:
            raise QuickError("Source", f"{cells} cells", "1 to 40")
        self.source, self.cells = source, cells
        return True

    def _wanted(self) -> bool:
        if found := self.take(rf"(?:at |with )?({_NUMBER} ?[mu]?a)"):
            if self.current is not None:
                raise QuickError("Scratch line", "it names two currents", "one")
            self.current = _with_limits(parse_current_a, found[1].replace(" ", ""), "Current", 1e-6, 2.0, "1 µA to 2 A")
            return True
        if found := self.take(r"(?:look(?:ing)? )?(" + "|".join(LOOKS) + ")"):
            self.look = found[1]
            return True
        return False

    def _lamps(self) -> bool:
        colours = "|".join(sorted(map(re.escape, LAMP_COLOURS), key=len, reverse=True))
        # A bare number right behind a colour is a body's, where nothing behind it says what else it would count.
        other = rf"(?! ?(?:v|vdc|[mu]?a|ohms?|Ω|k|r|x|aaa?|c|d|cr ?2032|coin|cells?|li-?ion|18650|resistors?|strings?|rows?|{colours})\b)"
        bodies = rf"(?:frosted|flat) \d+ ?mm|\d{{1,2}}(?:\.\d)? ?mm|0402|0603|0805|1206|3528|5050|(?:1[.,]8|2|3|5|8|10){other}"
        noun = r"(?:chips?|lamps?|leds?|round)"
        found = (
            self.take(rf"(?:(\d{{1,3}}) ?x? )?({colours})(?: {noun})?(?: ({bodies}))?(?: {noun})*")
            or self.take(rf"(?:(\d{{1,3}}) ?x? )?(?:({bodies}) )(?:{noun} )?({colours})(?: {noun})*")
        )  # fmt: skip
        if not found and (some := self.take(rf"(\d{{1,3}}) ?x? (?:{noun} ?)+(?:({bodies}))?")):
            self.taken.append("cool white")
            size = self._size(some[2])
            self.groups.append(Group(self._many(some[1]), body_part(self.catalogue, "cool white", size)))
            return True
        if not found:
            return False
        a, b = found[2], found[3]
        colour, body = (a, b) if a in LAMP_COLOURS else (b, a)
        count = self._many(found[1])
        if colour == "white":
            self.taken.append("white as cool white")
        self.groups.append(Group(count, body_part(self.catalogue, LAMP_COLOURS[colour], self._size(body))))
        return True

    @staticmethod
    def _many(text: str | None) -> int:
        count = int(text or 1)
        if count < 1:
            raise QuickError("Scratch line", f"{text} lamps", "one or more")
        return count

    def _size(self, body: str | None) -> str:
        """A body as the table has it; the usual one where none was said."""
        if body is None:
            self.taken.append(f"{USUAL_BODY} lamps")
            return USUAL_BODY
        size = re.sub(r" ?mm$", " mm", body).replace(",", ".")
        return f"{size} mm" if re.fullmatch(r"\d{1,2}(?:\.\d)?", size) else size

    def _resistor(self) -> bool:
        lead = r"(?:(?:behind|with|through) )?(?:(?:an?|one|1) )?"
        said = r"\d+(?:[.,]\d+)? ?[km]\d*(?: ?(?:ohms?|Ω|ω))?|\d*r\d+|\d+(?:[.,]\d+)? ?(?:ohms?|Ω|ω|r|e)"
        found = self.take(lead + rf"({said})(?: resistors?)?") or self.take(lead + rf"({_NUMBER})(?: ?k)? resistors?")
        if not found and (bare := re.match(rf"({_NUMBER})(?=$|[\s,+;])", self.rest)):
            # A bare number may be a count, a body, volts: it is ohms where it looks like what is printed on one.
            if not _like_a_value(bare[1]):
                after = self.rest[bare.end() :].lstrip(" ,+;")
                if after and not re.match(rf"(?:{_KNOWN})(?=$|[\s,+;])", after):
                    self.rest = after  # it counts what isn't known
                    self._unclear()
                raise QuickError("Scratch line", f"“{bare[1]}” may be many things", f"“{bare[1]} ohm”, “{bare[1]} V”, “{bare[1]} mA” or “{bare[1]} mm”")  # fmt: skip
            found = self.take(rf"({_NUMBER})")
        if not found:
            return False
        if self.ohm is not None:
            raise QuickError("Scratch line", "it names two resistors", "one")
        code = re.sub(r"(?<=\d) ?m(?=\d|$|[ oΩω])", "M", re.sub(r"\s+", "", found[1]))
        self.ohm = _with_limits(parse_resistance_ohm, code, "Resistor", 0.01, 1e7, "10 Ω to 10 MΩ")
        if self.ohm < LEAST_OHM:
            raise QuickError(
                "Resistor", f"{format_resistance(self.ohm)} are next to no resistor: the lamps would burn out",
                f"{figure(LEAST_OHM)} Ω or more, or leave it out, and the value is found",
            )  # fmt: skip
        return True

    def _unclear(self) -> None:
        pieces = re.split(r"[\s,+;]+", self.rest)
        word, near = pieces[0], []
        for count in (2, 1):  # “in serie” before “in”
            piece = " ".join(pieces[:count])
            near = get_close_matches(piece, sorted(set(WORDS)), 3, 0.7 if count == 2 else 0.6)
            if near:
                word = piece
                break
        raise QuickError(
            "Scratch line", f"“{word}” isn't clear",
            " or ".join(f"“{n}”" for n in near) if near else "lamps, “in series” or “each”, “on” a source, mA or a look, ohms",
        )  # fmt: skip


def body_part(catalogue: Catalogue, colour: str, size: str) -> LampPart:
    """A lamp by its colour and body.

    Raises
    ------
    QuickError
        Where there is no such body, or none of that colour.
    """
    stem = BODIES.get(size)
    if stem is None:
        raise QuickError("Body", f"“{size}” is none that is known", ", ".join(BODIES))
    part = catalogue.lamps.get(f"{stem}-{colour.replace(' ', '-')}")
    if part is None:
        there = sorted(
            {p.colour for p in catalogue.lamps.values() if re.fullmatch(rf"{re.escape(stem)}-[a-z-]+", p.id)}
        )
        raise QuickError("Lamp", f"there is no {colour} one of {size}", f"{size}: {', '.join(there)}")
    return part


def _like_a_value(text: str) -> bool:
    """Whether a bare number looks like a resistor's: whole, and a value of E24."""
    number = float(text.replace(",", "."))
    return number >= LEAST_OHM and number == int(number) and any(abs(number / v - 1.0) < 1e-9 for v in values("E24"))


def parted(things: list[T], shares: int) -> list[list[T]]:
    """Things in so many shares, as alike as can be, the larger ones first."""
    least, more = divmod(len(things), shares)
    out, at = [], 0
    for k in range(shares):
        size = least + (k < more)
        out.append(things[at : at + size])
        at += size
    return out


def _with_limits(parse: Callable[[str], Any], text: str, what: str, low: float, high: float, accepted: str) -> float:
    value = float(parse(text))
    if not low <= value <= high:
        raise QuickError(what, f"“{text}”", accepted)
    return value


def alternatives(line: str, taken: str) -> tuple[tuple[str, str], ...]:
    """What could be meant in place of what was taken for granted: words, and the line that says so."""
    colours = "|".join(sorted(map(re.escape, LAMP_COLOURS), key=len, reverse=True))
    if taken == "white as cool white":
        return tuple((c, re.sub(r"\bwhite\b", c, line, count=1, flags=re.IGNORECASE)) for c in ("warm white",))
    if taken == "cool white":
        return tuple(
            (c, re.sub(r"\b(leds?|lamps?|chips?)\b", rf"{c} \1", line, count=1, flags=re.IGNORECASE))
            for c in ("warm", "red", "green", "blue")
        )
    if taken == f"{USUAL_BODY} lamps":
        return tuple(
            (body, changed) for body in ("0603", "1206", "5 mm")
            if (changed := re.sub(rf"\b({colours})\b(?! white)", rf"\1 {body}", line, count=1, flags=re.IGNORECASE)) != line
        )  # fmt: skip
    if taken.endswith(" from an adapter") and taken.startswith("9 V"):
        return (("a 9 V block", re.sub(r"\b9 ?v\b", "9 V block", line, count=1, flags=re.IGNORECASE)),)
    more = {
        "each with a resistor of its own": ("in series", "sharing"), "all behind that one resistor": ("each",),
        UNSAID: ("full", "quarter", "bright"),
    }.get(taken, ())  # fmt: skip
    return tuple((word, f"{line.rstrip(' ?')} {word}") for word in more)


def completions(line: str) -> tuple[str, ...]:
    """The line with the words at its end completed, likeliest first; the longest piece that begins a known word counts."""
    lower = line.lower()
    for start in sorted({0, *(m.end() for m in re.finditer(r"[\s,+]+", lower))}):
        piece = lower[start:]
        found = [w for w in WORDS if piece and w.lower().startswith(piece) and w.lower() != piece]
        if found:
            return tuple(line[:start] + w + " " for w in found)
    return ()


def words_of(asked: Asked, catalogue: Catalogue) -> str:
    """The circuit said in one line."""
    lamps = " + ".join(f"{g.number} × {g.part.name}" if g.number > 1 else g.part.name for g in asked.groups)
    count = sum(g.number for g in asked.groups)
    hang = {"series": " in series", "shared": " behind one resistor", "each": ", a resistor each"}[asked.hang]
    if asked.shares > 1:
        hang = f" in {asked.shares} strings" if asked.hang == "series" else f" sharing {asked.shares} resistors"
    source = catalogue.sources[asked.source].name
    cells = f"{asked.in_series} × {source}" if asked.in_series > 1 else source
    return f"{lamps}{hang if count > 1 else ''} on {cells}"

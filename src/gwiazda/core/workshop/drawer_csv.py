"""What is in the user's drawer: parts with how many and where they are kept, as CSV. Fibre and wire are counted in metres.

An older list of resistors alone (``ohm,count``) is read too.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from gwiazda.core.errors import PlanError, QuantityError
from gwiazda.core.quantities import parse_length_mm, parse_number, parse_resistance_ohm
from gwiazda.core.tables import read_rows, write_table

COLUMNS = ("kind", "part", "count", "where")
PRICED = (*COLUMNS, "pack", "price")  # how many a pack as it is sold holds, and what it costs, where one knows
OLD_COLUMNS = ("ohm", "count")
KINDS = (
    "lamp",
    "resistor",
    "fibre",
    "wire",
    "sleeve",
    "connector",
    "supply",
    "fuse",
    "switch",
    "load",
    "diode",
    "regulator",
    "stage",
    "board",
    "holder",
    "socket",
    "tube",
    "paint",
    "putty",
    "sheet",
    "glue",
    "drill",
)
UNITS = {"fibre": "m", "wire": "m", "paint": "ml", "putty": "ml", "sheet": "cm²"}  # pieces else
BY_METRE = tuple(k for k, unit in UNITS.items() if unit == "m")
MOST_ROWS, MOST_OF_ONE, MOST_M, MOST_PRICE = 2_000, 100_000, 10_000.0, 1e6
ACCEPTED = "kind, part, count, where: lamp,led-3mm-white,12,box 2; fibre and wire in metres: fibre,pmma-0.5,8 m,roll; pack, price beside them where they are known"

Key = tuple[str, str]


class Held(NamedTuple):
    """One part in the drawer: pieces, or metres of fibre and wire; where it is kept, in the user's words.

    ``part`` is the catalogue's id, or the name on the shopping list; of a resistor its value in Ω. ``pack`` is how much of it
    is sold at once, ``price`` what that costs, in one's own money; 0 where it isn't known.
    """

    kind: str
    part: str
    amount: float
    where: str = ""
    pack: float = 0.0
    price: float = 0.0

    @property
    def key(self) -> Key:
        return key_of(self.kind, self.part)


def key_of(kind: str, part: str) -> Key:
    """How a part is found again: resistors by their value however it is written, others by name whatever the case."""
    if kind == "resistor":
        try:
            return kind, f"{parse_resistance_ohm(part):.6g}"
        except QuantityError:
            pass
    return kind, " ".join(part.lower().split())


def read_count(text: str, kind: str, what: str = "Count") -> float:
    """How many: pieces as a whole number, metres for fibre and wire (``8``, ``8 m``, ``250 cm``).

    Raises
    ------
    QuantityError
        Naming what is accepted.
    """
    text = text.strip()
    if kind in BY_METRE:
        accepted = f"metres of {kind}, such as 8, 2.5 m or 250 cm"
        try:
            in_metres = re.fullmatch(r"[\d.,]+\s*m?", text) is not None
            metres = parse_number(text, what, 0.0, MOST_M, "m") if in_metres else parse_length_mm(text, what) / 1000.0
        except QuantityError as error:
            raise QuantityError(what, error.found, accepted) from None
        if metres < 0:
            raise QuantityError(what, f"{text} is less than nothing", accepted)
        return round(metres, 2)
    if kind in UNITS:
        bare = re.sub(r"\s*(?:ml|cm2|cm²)$", "", text, flags=re.IGNORECASE)
        return round(parse_number(bare, what, 0.0, MOST_OF_ONE), 1)
    match = re.fullmatch(r"(\d{1,6})\s*(?:x|×|pcs?\.?|pieces?)?", text, re.IGNORECASE)
    if match is None or int(match[1]) > MOST_OF_ONE:
        raise QuantityError(what, f"“{text}” can’t be read as pieces", f"a whole number of pieces, 0 to {MOST_OF_ONE}")
    return float(match[1])


def drawer_from_csv(text: str) -> dict[Key, Held]:
    """Parts by key from CSV with a heading row; a part written twice is counted together.

    Raises
    ------
    PlanError
        Naming the row and what is accepted.
    """
    rows = read_rows(text, "Drawer", 10 * MOST_ROWS)
    heading = [c.strip().lower() for c in rows[0][1]] if rows else []
    if heading not in (list(COLUMNS), list(COLUMNS[:3]), list(PRICED), list(OLD_COLUMNS)):
        raise PlanError("Drawer, row 1", "the heading isn’t " + ", ".join(COLUMNS), ACCEPTED)
    old = heading == list(OLD_COLUMNS)
    drawer: dict[Key, Held] = {}
    for number, row in rows[1:]:
        where = f"Drawer, row {number}"
        cells = [c.strip() for c in row] + [""] * len(PRICED)
        kind, part, count, place = ("resistor", cells[0], cells[1] or "1", "") if old else cells[:4]
        kind = kind.lower()
        if kind not in KINDS:
            raise PlanError(where, f"“{kind[:40]}” is no kind of part", ", ".join(KINDS))
        if not part or len(part) > 80 or len(place) > 80:
            raise PlanError(where, "the part or its place is empty or longer than 80 letters", ACCEPTED)
        try:
            if kind == "resistor":
                part = f"{parse_resistance_ohm(part, where):.6g}"
            pack, price = ("", "") if old else cells[4:6]
            held = Held(
                kind, part, read_count(count or "1", kind, where), place,
                read_count(pack, kind, f"{where}, pack") if pack else 0.0,
                parse_number(price, f"{where}, price", 0.0, MOST_PRICE) if price else 0.0,
            )  # fmt: skip
        except QuantityError as error:
            raise PlanError(where, error.found, error.accepted) from None
        before = drawer.get(held.key)
        if before is not None:
            held = held._replace(
                amount=held.amount + before.amount,
                where=held.where or before.where,
                pack=held.pack or before.pack,
                price=held.price or before.price,
            )
        drawer[held.key] = held
        if len(drawer) > MOST_ROWS:
            raise PlanError(where, f"more than {MOST_ROWS} parts", f"up to {MOST_ROWS}")
    return drawer


def drawer_to_csv(drawer: Iterable[Held]) -> str:
    """CSV with a heading row, by kind and part; packs and prices where any is known."""
    drawer = list(drawer)
    priced = any(h.pack or h.price for h in drawer)
    rows = sorted(drawer, key=lambda h: (h.kind, float(h.part) if h.kind == "resistor" else 0.0, h.part))
    table = []
    for h in rows:
        more = (f"{h.pack:.12g}" if h.pack else "", f"{h.price:.12g}" if h.price else "") if priced else ()
        table.append((h.kind, h.part, f"{round(h.amount, 2):.12g}", h.where, *more))
    return write_table(PRICED if priced else COLUMNS, table)


def resistors_of(drawer: Mapping[Key, Held]) -> dict[float, int]:
    """Values (Ω) and how many of each."""
    return {float(k[1]): int(h.amount) for k, h in drawer.items() if k[0] == "resistor"}


def with_resistors(drawer: Mapping[Key, Held], stock: Mapping[float, int]) -> dict[Key, Held]:
    """Other resistors in a drawer; where a value was kept stays."""
    out = {k: h for k, h in drawer.items() if k[0] != "resistor"}
    for ohm, count in stock.items():
        held = Held("resistor", f"{ohm:.6g}", float(count))
        before = drawer.get(held.key)
        out[held.key] = held if before is None else before._replace(amount=held.amount)
    return out

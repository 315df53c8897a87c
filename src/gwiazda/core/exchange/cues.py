"""Cue sheets as CSV and JSON, out and in (docs/cue-sheet.md).

CSV: a row a cue, in the order of time: ``start_s,length_s,again_s,after,channels,stack,pattern,settings,name``; channels and settings
parted by semicolons, settings as ``name=value``. JSON: boards, channels, triggers and cues as in a plan file.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from typing import Any

import msgspec

from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Board, Channel, Cue, Pattern, Plan, Trigger, copy_unchecked
from gwiazda.core.plan.refusal import refusal_of
from gwiazda.core.quantities import figure
from gwiazda.core.tables import Table, read_rows

COLUMNS = ("start_s", "length_s", "again_s", "after", "channels", "stack", "pattern", "settings", "name")
FORMAT = "gwiazda cue sheet"
VERSION = 1
MOST_ROWS = 2_000
GROUPS: dict[str, type] = {"boards": Board, "channels": Channel, "triggers": Trigger, "cues": Cue}


def _number(value: float) -> str:
    return f"{value:.6f}".rstrip("0").rstrip(".")


def _settings(does: Pattern) -> str:
    """What of a pattern isn't at its default, as ``name=value``."""
    out = []
    for field in msgspec.structs.fields(type(does)):
        value = getattr(does, field.name)
        if value == field.default:
            continue
        if isinstance(value, bool):
            text = "yes" if value else "no"
        elif isinstance(value, tuple):
            text = " ".join(_number(x) for x in value)
        else:
            text = _number(value) if isinstance(value, float) else str(value)
        out.append(f"{field.name}={text}")
    return "; ".join(out)


def cue_csv(plan: Plan) -> str:
    """The plan's cues as a table."""
    table = Table(COLUMNS)
    for cue in sorted(plan.cues, key=lambda c: c.start_s):
        table.row([
            _number(cue.start_s), "" if cue.length_s is None else _number(cue.length_s), "" if cue.again_s is None else _number(cue.again_s),
            cue.trigger, "; ".join(cue.channels), cue.stack, type(cue.does).__struct_config__.tag, _settings(cue.does), cue.name,
        ])  # fmt: skip
    return table.text()


def cue_json(plan: Plan) -> str:
    """Boards, channels, triggers and cues, as in a plan file."""
    data = {name: [msgspec.to_builtins(x) for x in getattr(plan, name)] for name in GROUPS}
    return json.dumps({"format": FORMAT, "version": VERSION, **data}, indent=1, ensure_ascii=False) + "\n"


def _refuse(where: str, found: str, accepted: str) -> PlanError:
    return PlanError(where, found, accepted)


def _read_number(text: str, where: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        raise _refuse(where, f"“{text}” is not a number", "seconds, such as 1.5") from None
    if not abs(value) < 1e9:
        raise _refuse(where, f"“{text}” is out of range", "seconds, such as 1.5")
    return value


def _read_settings(text: str, kind: type[Pattern], where: str) -> dict[str, Any]:
    names = {f.name: f for f in msgspec.structs.fields(kind)}
    out: dict[str, Any] = {}
    for piece in filter(None, (p.strip() for p in text.split(";"))):
        name, equals, value = (x.strip() for x in piece.partition("="))
        if not equals or name not in names:
            known = ", ".join(names) or "nothing"
            raise _refuse(where, f"“{piece}” is no setting of it", f"name=value with {known}")
        default = names[name].default
        if isinstance(default, bool):
            out[name] = value.lower() in ("yes", "true", "1")
        elif isinstance(default, tuple):
            out[name] = [_read_number(x, where) for x in value.split()]
        elif isinstance(default, str):
            out[name] = value
        else:
            number = _read_number(value, where)
            out[name] = int(number) if isinstance(default, int) and number == int(number) else number
    return out


def _rows(text: str) -> Iterator[tuple[int, dict[str, str]]]:
    """Rows with their line numbers; raises PlanError for a heading, a gap or a row that isn't what it should be."""
    rows = read_rows(text, "Cue sheet", 10 * MOST_ROWS, ",;")
    if not rows:
        raise _refuse("Cue sheet", "the file is empty", f"a heading {','.join(COLUMNS)}")
    heading = [h.strip().lower() for h in rows[0][1]]
    missing = [c for c in ("start_s", "channels", "pattern") if c not in heading]
    if missing:
        raise _refuse("Cue sheet, line 1", f"there is no column {missing[0]}", f"a heading {','.join(COLUMNS)}")
    odd = [h for h in heading if h not in COLUMNS]
    if odd:
        raise _refuse("Cue sheet, line 1", f"the column “{odd[0]}” is not known", f"a heading {','.join(COLUMNS)}")
    for count, (line, row) in enumerate(rows[1:], 1):
        if len(row) != len(heading):
            raise _refuse(f"Cue sheet, line {line}", f"{len(row)} cells", f"{len(heading)}, as in the heading")
        if count > MOST_ROWS:
            raise _refuse(f"Cue sheet, line {line}", f"more than {MOST_ROWS:,} cues", f"up to {MOST_ROWS:,}")
        yield line, {h: x.strip() for h, x in zip(heading, row, strict=True)}


def from_csv(plan: Plan, text: str) -> Plan:
    """A plan with the cues of a table in place of its own; channels and triggers it names and the plan hasn't got are made.

    Raises
    ------
    PlanError
        Naming the line: what was found there, what is accepted. Time that goes back, gaps, patterns that aren't known or can't
        be so, two cues that want one channel at once.
    """
    plan = copy_unchecked(plan, cues=())
    before = 0.0
    cues: list[Cue] = []
    for n, (line, row) in enumerate(_rows(text), 1):
        where = f"Cue sheet, line {line}"
        if not row["start_s"]:
            raise _refuse(where, "there is no start", "seconds in start_s")
        start = _read_number(row["start_s"], where)
        if start < before:
            raise _refuse(
                where, f"{figure(start)} s comes after {figure(before)} s: time goes back", "rows in the order of time"
            )
        before = start
        kind = edits.PATTERNS.get(row["pattern"])
        if kind is None:
            raise _refuse(where, f"the pattern “{row['pattern']}” is not known", ", ".join(edits.PATTERNS))
        names = [c for c in (x.strip() for x in row["channels"].replace("|", ";").split(";")) if c]
        if not names:
            raise _refuse(where, "there is no channel", "one or more, parted by semicolons")
        channels = []
        for name in names:
            plan, channel = edits.channel_called(plan, name)
            channels.append(channel)
        trigger = row.get("after", "")
        if trigger and all(trigger not in (t.id, t.name) for t in plan.triggers):
            plan, trigger = edits.add_trigger(plan, trigger)
        elif trigger:
            trigger = next(t.id for t in plan.triggers if trigger in (t.id, t.name))
        data = {
            "id": f"cue.{n:02d}", "name": row.get("name", "")[:100], "channels": channels, "start_s": start, "trigger": trigger,
            "stack": row.get("stack") or "base",
            "does": {"is": row["pattern"], **_read_settings(row.get("settings", ""), kind, where)},
            **{k: _read_number(row[k], where) for k in ("length_s", "again_s") if row.get(k)},
        }  # fmt: skip
        try:
            cue = msgspec.convert(data, Cue)
        except (msgspec.ValidationError, ValueError) as error:
            found = refusal_of(Cue, data, error)
            field = ".".join(str(p) for p in found.path) or "the cue"
            raise _refuse(where, f"{field} is refused", found.words) from None
        _check_apart(cue, cues, where)
        cues.append(cue)
    plan = copy_unchecked(plan, cues=tuple(c for c in cues))
    taken = edits.fresh_ids(copy_unchecked(plan, cues=()), "cue", len(cues))
    plan = copy_unchecked(plan, cues=tuple(copy_unchecked(c, id=i) for c, i in zip(cues, taken, strict=True)))
    return validate_edit(Plan(), plan)


def _check_apart(cue: Cue, cues: Sequence[Cue], where: str) -> None:
    """Raise PlanError where a channel is still at something else when a cue begins."""
    for other in cues:
        shared = set(cue.channels) & set(other.channels)
        lasts = (
            other.again_s is not None or other.length_s is None or other.start_s + other.length_s > cue.start_s + 1e-9
        )
        alike = cue.stack == other.stack == "base" and cue.trigger == other.trigger
        if shared and alike and lasts and _both(other, cue):
            raise _refuse(
                where, f"{sorted(shared)[0]} still does something else then, from {figure(other.start_s)} s on",
                "one base cue at a time; others as modifier or mask",
            )  # fmt: skip


def _both(first: Cue, second: Cue) -> bool:
    """Whether two cues are on at once, the second beginning later."""
    if first.again_s is None or first.length_s is None:
        return True
    within = (second.start_s - first.start_s) % first.again_s
    lasts = second.length_s if second.length_s is not None else float("inf")
    return within < first.length_s - 1e-9 or within + lasts > first.again_s + 1e-9


def from_json(plan: Plan, text: str) -> Plan:
    """A plan with the channels, boards, triggers and cues of a cue sheet; lamps stay on their channels, where these are there.

    Raises
    ------
    PlanError
        When it is no cue sheet, or names where something in it is refused.
    """
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        place = f", line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise _refuse(f"Cue sheet{place}", "it is not readable JSON", "a cue sheet written by Gwiazda") from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise _refuse("Cue sheet", "it is no cue sheet", f"JSON with “format”: “{FORMAT}”")
    if data.get("version") != VERSION:
        raise _refuse("Cue sheet", f"its version is {data.get('version')!r}", f"version {VERSION}")
    odd = set(data) - set(GROUPS) - {"format", "version"}
    if odd:
        raise _refuse("Cue sheet", f"“{sorted(odd)[0]}” is not known", ", ".join(GROUPS))
    groups: dict[str, tuple[Any, ...]] = {}
    for name, kind in GROUPS.items():
        items = data.get(name, [])
        if not isinstance(items, list):
            raise _refuse(f"Cue sheet, {name}", "it is no list", "a list")
        read: list[Any] = []
        for n, item in enumerate(items, 1):
            try:
                read.append(msgspec.convert(item, kind))
            except (msgspec.ValidationError, ValueError) as error:
                found = refusal_of(kind, item, error)
                field = ".".join(str(p + 1) if isinstance(p, int) else p for p in found.path)
                raise _refuse(
                    f"Cue sheet, {name} {n}{f', {field}' if field else ''}", "it is refused", found.words
                ) from None
        groups[name] = tuple(read)
    # Channels of lamps that the sheet hasn't got stay, so that no lamp is left on nothing.
    there = {c.id for c in groups["channels"]}
    used = {p.channel for p in plan.lamps} | {d.channel for d in plan.dots} | set(edits.outputs_of_channels(plan))
    groups["channels"] += tuple(c for c in plan.channels if c.id in used and c.id not in there)
    try:
        return validate_edit(Plan(), copy_unchecked(plan, **groups))
    except GwiazdaError as error:
        raise _refuse(f"Cue sheet, {error.where}", error.found, error.accepted) from None


def read_cues(plan: Plan, text: str) -> Plan:
    """A cue sheet of either kind taken into a plan."""
    return from_json(plan, text) if text.lstrip("\ufeff \t\r\n").startswith("{") else from_csv(plan, text)

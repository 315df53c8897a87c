"""The ``.gwiazda`` file: a zip with ``plan.json`` and ``pictures/``; a bare ``plan.json`` opens too.

Everything about a file is checked before it is believed: sizes before unpacking, names before use,
picture dimensions from their headers. Nothing in a file is ever executed. Saving writes a neighbour,
flushes it to the disk and renames it over the old file, so a kill leaves the old or the new one.
"""

from __future__ import annotations

import inspect
import io
import json
import lzma
import math
import os
import re
import struct
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import msgspec

from gwiazda.core.errors import GwiazdaError, PlanFileError, QuantityError
from gwiazda.core.files import clear_parts, open_plain, write_atomically
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.plan.gate import check_consistent
from gwiazda.core.plan.migrations import MIGRATIONS, Migration
from gwiazda.core.plan.model import PLAN_VERSION, Plan
from gwiazda.core.plan.outline.svg_clean import clean_svg
from gwiazda.core.plan.refusal import refusal_of
from gwiazda.core.quantities import format_scale, parse_scale

MAX_JSON = 64 * 2**20
MAX_ENTRIES = 512
MAX_PICTURE = 32 * 2**20
MAX_TOTAL = 256 * 2**20
MAX_SIDE_PX = 16_384
MAX_AREA_PX = 100_000_000
MOST_DEPTH = 300

_NUMBERS = re.compile(r"\[\s+-?[\d.][\d.e+-]*(?:,\s+-?[\d.][\d.e+-]*)*\s+\]")


@dataclass(frozen=True)
class PlanFile:
    """A plan with the pictures its drawings name (file name → bytes)."""

    plan: Plan
    pictures: Mapping[str, bytes] = field(default_factory=dict)


def picture_size(data: bytes) -> tuple[int, int] | None:
    """Width and height in px from the header of a PNG or JPEG, None for an SVG.

    Raises ValueError when it is none of these.
    """
    if data[:8] == b"\x89PNG\r\n\x1a\n" and data[12:16] == b"IHDR" and len(data) >= 24:
        width, height = struct.unpack(">II", data[16:24])
        return width, height
    if data[:2] == b"\xff\xd8":
        return _jpeg_size(data)
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith((b"<?xml", b"<svg", b"<!--")) and b"<svg" in data[:65536]:
        return None
    raise ValueError("not a PNG, JPEG or SVG picture")


_FRAME = re.compile(rb"\xff(?:[\xc0-\xc3\xc5-\xc7\xc9-\xcb\xcd-\xcf]|(\xd9))", re.DOTALL)


def _jpeg_size(data: bytes) -> tuple[int, int]:
    """Size from the frame header; a second one could say another size than the one that is checked, and is refused."""
    at, size = 2, None
    while at + 9 < len(data):
        if data[at] != 0xFF:
            break
        marker = data[at + 1]
        if 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
            if size is not None:
                raise ValueError("a JPEG that says its size twice")
            height, width = struct.unpack(">HH", data[at + 5 : at + 9])
            size = (width, height)
        if marker == 0xFF:
            at += 1
            continue
        if marker == 0xDA:  # what follows is the picture: markers are escaped in it
            later = _FRAME.search(data, at)
            if size is not None and later is not None and later[1] is None:
                raise ValueError("a JPEG that says its size twice")
            break
        at += 2 + int(struct.unpack(">H", data[at + 2 : at + 4])[0])
    if size is None:
        raise ValueError("not a readable JPEG picture")
    return size


def check_picture(name: str, data: bytes) -> bytes:
    """A picture as it may be kept: an SVG without what runs or leads outside, others as they are.

    Raises PlanFileError when it is of no known kind, too large, or an SVG that can't be made harmless.
    """
    where = f"Picture {name}"
    if len(data) > MAX_PICTURE:
        raise PlanFileError(where, f"{len(data) / 2**20:.0f} MB", f"up to {MAX_PICTURE // 2**20} MB")
    try:
        size = picture_size(data)
    except (ValueError, struct.error) as error:
        raise PlanFileError(where, str(error), "PNG, JPEG or SVG") from None
    if size is None:
        return clean_svg(data, where).data
    width, height = size
    if width < 1 or height < 1 or max(size) > MAX_SIDE_PX or width * height > MAX_AREA_PX:
        raise PlanFileError(where, f"{width} × {height} px", f"up to {MAX_SIDE_PX} px a side and 100 Mpx")
    return data


def piece_from_json(text: str) -> Plan:
    """A part of a plan, as a variant holds it: what it refers to needn't be in it.

    Raises
    ------
    PlanFileError
        When it can't be read.
    """
    return plan_from_json(text.encode(), "Variant", whole=False)


def plan_from_json(
    data: bytes, where: str, migrations: Mapping[int, Migration] = MIGRATIONS, whole: bool = True
) -> Plan:
    """A Plan from the bytes of ``plan.json``, migrated when it is of an older version; ``whole``: all it refers to is in it."""
    if len(data) > MAX_JSON:
        raise PlanFileError(where, f"the plan has {len(data) / 2**20:.0f} MB", f"up to {MAX_JSON // 2**20} MB")
    try:
        raw = json.loads(data, parse_constant=_no_such_number, parse_float=_finite)
        if b"\\" in data:
            raw = _readable(raw)
        _depth(raw)
    except (ValueError, RecursionError) as error:
        place = f" at line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise PlanFileError(where, f"the plan is not readable JSON{place}", "a plan written by Gwiazda") from None
    if not isinstance(raw, dict):
        raise PlanFileError(where, "the plan is not a JSON object", "a plan written by Gwiazda")
    version = raw.get("version", 0)
    if not isinstance(version, int) or isinstance(version, bool) or version < 0:
        raise PlanFileError(where, f"version {shortened(version)}", f"a whole number up to {PLAN_VERSION}")
    if version > PLAN_VERSION:
        raise PlanFileError(
            where,
            f"the plan is of version {shortened(version)}, made by a newer Gwiazda",
            f"versions up to {PLAN_VERSION}",
        )
    try:
        while version < PLAN_VERSION:
            raw = migrations[version](raw)
            version += 1
            raw["version"] = version
    except (AttributeError, KeyError, TypeError, ValueError, OverflowError, RecursionError):
        raise PlanFileError(
            where, "the plan's parts are not what they should be", "a plan written by Gwiazda"
        ) from None
    try:
        if isinstance(raw.get("kit"), dict) and "scale" in raw["kit"]:
            raw = {**raw, "kit": {**raw["kit"], "scale": _scale(raw["kit"]["scale"])}}
        plan = msgspec.convert(raw, Plan)
    except (msgspec.ValidationError, ValueError, OverflowError, RecursionError) as error:
        found = refusal_of(Plan, raw, error)
        path = ("kit", "scale") if isinstance(error, _ScaleError) else found.path
        value: Any = raw
        for part in path:
            try:
                value = value[part]
            except (KeyError, IndexError, TypeError):
                value = raw
        spot = _spot(raw, path)
        plain = isinstance(value, (str, int, float, bool, type(None)))
        raise PlanFileError(
            f"{where}, {spot}" if spot else where,
            f"found {shortened(value)}" if plain else found.words,
            found.words if plain else "",
        ) from None
    except GwiazdaError as error:
        raise PlanFileError(f"{where}, {error.where}", error.found, error.accepted) from None
    try:
        if whole:
            check_consistent(plan)
    except GwiazdaError as error:
        raise PlanFileError(f"{where}, {error.where}", error.found, error.accepted) from None
    return plan


class _ScaleError(ValueError):
    """A scale that can't be read."""


def _scale(value: Any) -> float:
    try:
        return parse_scale(value)
    except QuantityError as error:
        raise _ScaleError(error.accepted) from None


def _no_such_number(name: str) -> float:
    raise ValueError(f"{name} is no number")


def _finite(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(f"{text[:20]} is too large a number")
    return value


def _depth(value: Any) -> None:
    """Raise ValueError for what is nested deeper than any plan: it would take each reader's stack down."""
    level = [value]
    for _ in range(MOST_DEPTH):
        level = [x for v in level if isinstance(v, (dict, list)) for x in (v.values() if isinstance(v, dict) else v)]
        if not level:
            return
    raise ValueError("it is nested too deeply")


def _readable(value: Any, name: str = "") -> Any:
    """Texts without control characters and halves of characters: those can't be shown, or saved again. Names have one line."""
    if isinstance(value, str):
        kept = "\n\t" if name not in ("name", "subtitle") else ""
        plain = (c if (c >= " " and c != "\x7f") or c in kept else " " for c in value)
        return "".join(plain).encode("utf-8", "replace").decode("utf-8")
    if isinstance(value, list):
        return [_readable(x) for x in value]
    if isinstance(value, dict):
        return {_readable(k): _readable(v, k) for k, v in value.items()}
    return value


def shortened(value: object) -> str:
    """A value as it can stand in a sentence."""
    try:
        text = repr(value)
    except ValueError:  # an integer of more digits than are ever written
        text = "a very long number"
    return text if len(text) <= 60 else f"{text[:50]}…"


def _spot(raw: Any, loc: tuple[Any, ...]) -> str:
    """Where in the plan, with the item's id in place of its number."""
    words: list[str] = []
    node = raw
    for part in loc:
        try:
            node = node[part]
        except (KeyError, IndexError, TypeError):
            node = None
        if isinstance(part, int):
            item_id = node.get("id") if isinstance(node, dict) else None
            words.append(str(item_id) if item_id else str(part + 1))
        else:
            words.append(str(part))
    return " ".join(words)


def load(path: str | os.PathLike[str]) -> PlanFile:
    """Read a ``.gwiazda`` file or a bare ``plan.json``.

    Raises
    ------
    PlanFileError
        With one sentence, whatever is wrong. The file on disk is never touched.
    """
    path = Path(path)
    clear_parts(path)
    with open_plain(path) as stream:
        try:
            head = stream.read(4)
            if head[:2] != b"PK":
                data = stream.read(MAX_JSON + 1)
                return PlanFile(plan_from_json(head + data, path.name))
        except OSError as error:
            raise PlanFileError(path.name, f"can't be read ({error.strerror})", "a file you may read") from None
        stream.seek(0)
        return _from_stream(stream, path)


def _from_stream(stream: BinaryIO, path: Path) -> PlanFile:
    damaged = (zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError, RuntimeError, OSError, ValueError, struct.error)  # fmt: skip
    try:
        with zipfile.ZipFile(stream) as archive:
            return _from_archive(archive, path.name)
    except damaged as error:
        raise PlanFileError(path.name, f"the archive is damaged ({error})", "a whole .gwiazda file") from None


def _from_archive(archive: zipfile.ZipFile, where: str) -> PlanFile:
    entries = archive.infolist()
    if len(entries) > MAX_ENTRIES:
        raise PlanFileError(where, f"{len(entries)} entries in the archive", f"up to {MAX_ENTRIES}")
    total = sum(e.file_size for e in entries)
    if total > MAX_TOTAL:
        raise PlanFileError(where, f"{total / 2**20:.0f} MB when unpacked", f"up to {MAX_TOTAL // 2**20} MB")
    plan_data: bytes | None = None
    pictures: dict[str, bytes] = {}
    for entry in entries:
        name = entry.filename
        if name.startswith("/") or "\\" in name or ".." in name.split("/") or "\0" in name:
            raise PlanFileError(where, f"an entry is named “{name}”", "plan.json and pictures/ only")
        if name == "plan.json":
            plan_data = _read(archive, entry, MAX_JSON, where)
        elif name.startswith("pictures/") and not name.endswith("/"):
            short = name.removeprefix("pictures/")
            if not re.fullmatch(r"[A-Za-z0-9._-]{1,120}", short):
                raise PlanFileError(where, f"a picture is named “{short}”", "letters, digits, dots and dashes")
            data = _read(archive, entry, MAX_PICTURE, where)
            pictures[short] = check_picture(f"{short} in {where}", data)
    if plan_data is None:
        raise PlanFileError(where, "there is no plan.json in the archive", "a .gwiazda file")
    return PlanFile(plan_from_json(plan_data, where), pictures)


def _read(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, limit: int, where: str) -> bytes:
    """Read one entry, never more than ``limit`` whatever its header claims."""
    if entry.file_size > limit:
        raise PlanFileError(
            where, f"{entry.filename} has {entry.file_size / 2**20:.0f} MB", f"up to {limit // 2**20} MB"
        )
    with archive.open(entry) as stream:
        data = stream.read(limit + 1)
    if len(data) > limit:
        raise PlanFileError(where, f"{entry.filename} is larger than it says", f"up to {limit // 2**20} MB")
    return data


def _plain(value: Any) -> Any:
    """A model as built-in values in field order, without what is at its default."""
    if isinstance(value, msgspec.Struct):
        kind = type(value)
        config = kind.__struct_config__
        out: dict[str, Any] = {config.tag_field: config.tag} if config.tag_field else {}
        for name, default in _defaults(kind):
            own = getattr(value, name)
            if own is not default and own != default:
                out[name] = _plain(own)
        return out
    if type(value) is tuple:
        return [_plain(x) for x in value]
    return value


@memoize_by_value()
def _defaults(kind: type) -> tuple[tuple[str, Any], ...]:
    return tuple((f.name, f.default) for f in msgspec.structs.fields(kind))


def plan_to_json(plan: Plan) -> str:
    """Pretty-printed, in field order, without what is at its default: short and good to diff."""
    data = {"version": PLAN_VERSION, **_plain(plan)}
    if "scale" in data.get("kit", {}):
        data["kit"]["scale"] = format_scale(plan.kit.scale)
    text = json.dumps(data, indent=1, ensure_ascii=False)
    # A point belongs on one line.
    return _NUMBERS.sub(lambda m: re.sub(r"\s+", " ", m.group()).replace("[ ", "[").replace(" ]", "]"), text) + "\n"


def to_bytes(file: PlanFile) -> bytes:
    """The whole archive; the same plan gives the same bytes."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        stamp = (1980, 1, 1, 0, 0, 0)
        archive.writestr(zipfile.ZipInfo("plan.json", stamp), plan_to_json(file.plan), zipfile.ZIP_DEFLATED)
        for name, data in sorted(file.pictures.items()):
            archive.writestr(zipfile.ZipInfo(f"pictures/{name}", stamp), data, zipfile.ZIP_DEFLATED)
    return stream.getvalue()


def save(file: PlanFile, path: str | os.PathLike[str]) -> None:
    """Write the file atomically (neighbour, fsync, rename, fsync of the folder)."""
    path = Path(path)
    write_atomically(path, plan_to_json(file.plan).encode() if path.suffix == ".json" else to_bytes(file))


def schema() -> dict[str, Any]:
    """The JSON schema of ``plan.json``."""
    (reference,), parts = msgspec.json.schema_components([Plan], ref_template="#/$defs/{name}")
    data: dict[str, Any] = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Gwiazda plan, version {PLAN_VERSION}",
        "$ref": reference["$ref"],
        "$defs": parts,
    }
    parts["Kit"]["properties"]["scale"] = {"type": ["string", "number"], "examples": ["1/200"], "default": "1/72"}
    plain: dict[str, Any] = json.loads(json.dumps(data))
    return _described(plain)  # type: ignore[no-any-return]


def _described(value: Any) -> Any:
    """Descriptions as they are read: docstrings keep their indents under some Pythons, and lose them under others."""
    if isinstance(value, list):
        return [_described(x) for x in value]
    if isinstance(value, dict):
        return {
            k: inspect.cleandoc(v) if k == "description" and isinstance(v, str) else _described(v)
            for k, v in value.items()
        }
    return value

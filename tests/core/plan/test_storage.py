"""The plan file: round trips, and everything that can be wrong with one."""

from __future__ import annotations

import io
import json
import os
import struct
import subprocess
import sys
import zipfile
import zlib
from pathlib import Path

import jsonschema
import pytest

from gwiazda.core.errors import PlanFileError
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.model import PLAN_VERSION, Plan
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.demos import path_of


def png(width: int, height: int) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    body = zlib.compress(b"\0" * min((width + 1) * height, 1000))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


def archive(path: Path, entries: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        for name, data in entries.items():
            out.writestr(name, data)
    return path


@pytest.fixture
def good(demo: Plan) -> bytes:
    return storage.plan_to_json(demo).encode()


def test_demo_comes_back_unchanged(demo_file, tmp_path):
    path = tmp_path / "a.gwiazda"
    save(demo_file, path)
    again = load(path)
    assert again.plan == demo_file.plan and dict(again.pictures) == dict(demo_file.pictures)
    assert storage.to_bytes(again) == path.read_bytes()


def test_bare_json_opens_and_saves(demo, tmp_path):
    path = tmp_path / "plan.json"
    save(PlanFile(demo), path)
    assert load(path).plan == demo
    json.loads(path.read_text())


def test_the_empty_plan_comes_back(tmp_path):
    save(PlanFile(Plan()), tmp_path / "e.gwiazda")
    assert load(tmp_path / "e.gwiazda").plan == Plan()


def test_json_is_fit_for_a_diff(demo):
    text = storage.plan_to_json(demo)
    assert '"id": "deck1.window.07"' in text and '"scale": "1/200"' in text
    moved = storage.plan_to_json(edits.move(demo, ["deck1.lamp.03"], (1.0, 0.0, 0.0)))
    changed = [a for a, b in zip(text.splitlines(), moved.splitlines(), strict=True) if a != b]
    assert len(changed) == 1


def test_the_demo_fits_the_published_schema(good):
    jsonschema.validate(json.loads(good), storage.schema())
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({**json.loads(good), "lamps": [{"id": 3}]}, storage.schema())


def refused(path: Path) -> str:
    before = path.read_bytes()
    with pytest.raises(PlanFileError) as caught:
        load(path)
    assert path.read_bytes() == before
    sentence = str(caught.value)
    assert sentence.endswith(".") and "\n" not in sentence and "Traceback" not in sentence
    return sentence


def test_newer_version(tmp_path, good):
    data = {**json.loads(good), "version": 99}
    sentence = refused(archive(tmp_path / "n.gwiazda", {"plan.json": json.dumps(data).encode()}))
    assert "version 99" in sentence and "versions up to 13" in sentence


@pytest.mark.parametrize("version", ["1", -1, True, 1.5, None])
def test_odd_versions(tmp_path, version):
    assert "whole number" in refused(
        archive(tmp_path / "n.gwiazda", {"plan.json": json.dumps({"version": version}).encode()})
    )


def test_old_versions_are_migrated():
    plan = storage.plan_from_json(b'{"version": 0, "room_lux": 12.5}', "x")
    assert plan.room.lux == 12.5 and plan.version == PLAN_VERSION
    first = storage.plan_from_json(
        b'{"version": 1, "sections": [{"id": "a", "name": "A", "box": {"at": [0,0,0], "size": [9,9,9]}}]}', "x"
    )
    assert first.version == PLAN_VERSION and first.sections[0].inside == () and first.sections[0].lining_coats == 2
    steps = {
        0: lambda d: {**d, "kit": {"name": "From a hook"}},
        1: dict,
        2: dict,
        3: dict,
        4: dict,
        5: dict,
        6: dict,
        8: dict,
        7: dict,
        9: dict,
        10: dict,
        11: dict,
        12: dict,
    }
    assert storage.plan_from_json(b"{}", "x", steps).kit.name == "From a hook"


@pytest.mark.parametrize("cut", [10, 100, 1000, -20])
def test_truncated(tmp_path, cut):
    data = path_of().read_bytes()
    path = tmp_path / "t.gwiazda"
    path.write_bytes(data[:cut])
    assert "damaged" in refused(path)


@pytest.mark.parametrize("place", [200, 2000, 6000])
def test_flipped_bytes_never_crash(tmp_path, place):
    data = bytearray(path_of().read_bytes())
    for i in range(place, place + 12):
        data[i] ^= 0x5A
    path = tmp_path / "f.gwiazda"
    path.write_bytes(bytes(data))
    try:
        load(path)
    except PlanFileError as error:
        assert str(error).startswith("f.gwiazda") or "in f.gwiazda" in str(error)


@pytest.mark.parametrize(
    "name", ["../plan.json", "pictures/../../x.png", "/etc/passwd", "pictures\\..\\x.png", "pictures/a b.png"]
)
def test_paths_that_leave_the_archive(tmp_path, good, name):
    assert "named" in refused(archive(tmp_path / "p.gwiazda", {"plan.json": good, name: png(4, 4)}))
    assert sorted(p.name for p in tmp_path.iterdir()) == ["p.gwiazda"]


def test_wide_picture(tmp_path, good):
    path = archive(tmp_path / "w.gwiazda", {"plan.json": good, "pictures/w.png": png(40_000, 10)})
    assert "40000 × 10 px" in refused(path) and "16384" in refused(path)


@pytest.mark.parametrize(
    "data", [b"GIF89a" + b"\0" * 20, b"", b"\xff\xd8\xff", b"<svg><!ENTITY a 'b'></svg>", b"<html></html>"]
)
def test_odd_pictures(tmp_path, good, data):
    assert "Picture x.svg" in refused(archive(tmp_path / "o.gwiazda", {"plan.json": good, "pictures/x.svg": data}))


def test_jpeg_header_is_read():
    head = b"\xff\xd8\xff\xe0\x00\x04ab\xff\xc0\x00\x11\x08" + struct.pack(">HH", 300, 500) + b"\x03" + b"\0" * 20
    assert storage.picture_size(head) == (500, 300)


def test_huge_json_is_refused_before_it_is_read(tmp_path):
    path = tmp_path / "h.gwiazda"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out, out.open("plan.json", "w") as entry:
        for _ in range(200):
            entry.write(b" " * 2**20)
    assert path.stat().st_size < 2**20
    assert "200 MB" in refused(path)
    bare = tmp_path / "h.json"
    with bare.open("wb") as stream:
        stream.truncate(200 * 2**20)
    with pytest.raises(PlanFileError, match="64 MB"):
        load(bare)


def test_an_entry_that_lies_about_its_size(tmp_path, good):
    path = archive(tmp_path / "l.gwiazda", {"plan.json": good + b" " * 5000})
    data = path.read_bytes().replace(struct.pack("<I", len(good) + 5000), struct.pack("<I", 50))
    path.write_bytes(data)
    refused(path)


def test_too_many_entries(tmp_path, good):
    entries = {"plan.json": good, **{f"pictures/{i}.png": png(1, 1) for i in range(600)}}
    assert "601 entries" in refused(archive(tmp_path / "m.gwiazda", entries))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: d["kit"].update(scale="1:0"), "kit scale"),
        (lambda d: d["openings"][3].update(width_mm=-2), "hull.window.04 width_mm"),
        (lambda d: d["lamps"][0].update(part=7), "part"),
        (lambda d: d.update(surprise=1), "surprise"),
        (lambda d: d["sections"][0]["box"].update(size=[1, 2]), "hull box size"),
        (lambda d: d["openings"][0].update(section="attic"), "attic"),
        (lambda d: d.update(lamps="none"), "lamps"),
    ],
)
def test_wrong_values_are_named(tmp_path, good, change, words):
    data = json.loads(good)
    change(data)
    path = tmp_path / "v.json"
    path.write_text(json.dumps(data))
    assert words in refused(path)


@pytest.mark.parametrize("text", [b"", b"[]", b"nul", b"{", b"[" * 100_000, b"\xff\xfe{}"])
def test_not_a_plan(tmp_path, text):
    path = tmp_path / "x.json"
    path.write_bytes(text)
    refused(path)


def test_no_such_file(tmp_path):
    with pytest.raises(PlanFileError, match="can't be opened"):
        load(tmp_path / "missing.gwiazda")


def test_a_place_that_can_t_be_written(tmp_path):
    with pytest.raises(PlanFileError, match="can't be written"):
        save(PlanFile(Plan()), tmp_path / "no" / "such" / "folder.gwiazda")


KILLER = """
import itertools, os, signal, sys, time
from gwiazda.core.plan import storage
from gwiazda.core.plan.model import Kit, copy_unchecked
path = sys.argv[1]
file = storage.load(path)
began = time.perf_counter()
storage.save(file, path)
one = time.perf_counter() - began
for kill in range(40):
    child = os.fork()
    if child == 0:
        for i in itertools.count():
            kit = Kit(name=f"Round {kill}.{i}", scale=200.0)
            storage.save(storage.PlanFile(copy_unchecked(file.plan, kit=kit), file.pictures), path)
    # From before the first save to some saves later, in uneven steps.
    time.sleep(one * 0.2 * (kill * 7 % 40))
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    found = storage.load(path)
    assert len(found.plan.openings) == len(file.plan.openings), "openings are missing"
    assert dict(found.pictures) == dict(file.pictures), "pictures are missing"
    print(found.plan.kit.name, flush=True)
"""


def test_killed_while_saving_leaves_the_old_or_the_new_file(demo_file, tmp_path):
    """Forty kills at every stage of a save: the file always opens, whole."""
    path = tmp_path / "k.gwiazda"
    save(demo_file, path)
    done = subprocess.run([sys.executable, "-c", KILLER, str(path)], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    names = done.stdout.splitlines()
    assert len(names) == 40
    assert len(set(names)) > 5, "the kills all came before the first save"


def test_save_is_flushed_before_it_is_renamed(monkeypatch, tmp_path):
    calls: list[str] = []
    real_fsync, real_replace = os.fsync, os.replace
    monkeypatch.setattr(os, "fsync", lambda fd: (calls.append("fsync"), real_fsync(fd))[1])
    monkeypatch.setattr(os, "replace", lambda a, b: (calls.append("replace"), real_replace(a, b))[1])
    save(PlanFile(Plan()), tmp_path / "a.gwiazda")
    assert calls == ["fsync", "replace", "fsync"]


def test_a_full_disk_keeps_the_old_file(monkeypatch, demo_file, tmp_path):
    path = tmp_path / "a.gwiazda"
    save(demo_file, path)
    before = path.read_bytes()

    def full(fd: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(PlanFileError, match="No space left"):
        save(PlanFile(Plan()), path)
    assert path.read_bytes() == before and [p.name for p in tmp_path.iterdir()] == ["a.gwiazda"]


def test_archives_are_reproducible(demo_file):
    assert storage.to_bytes(demo_file) == storage.to_bytes(demo_file)
    with zipfile.ZipFile(io.BytesIO(storage.to_bytes(demo_file))) as file:
        assert file.namelist() == ["plan.json", "pictures/console.png", "pictures/port.svg", "pictures/top.svg"]

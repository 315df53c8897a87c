"""What is the user's own: kept in one place, never written over, known to window and command line alike."""

from __future__ import annotations

import json
import os
import subprocess
import sys

import pytest

from decks import deck_plan
from gwiazda.cli import main
from gwiazda.core.colour.swatch import Swatch
from gwiazda.core.errors import PlanError, PlanFileError
from gwiazda.core.files import clear_parts, set_aside, write_atomically
from gwiazda.core.light.staircase import Comparison
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.parts.materials import Coat
from gwiazda.core.plan import storage
from gwiazda.core.plan.edits import skins
from gwiazda.core.workshop.coats_json import coats_from_json, coats_to_json
from gwiazda.core.workshop.comparisons_csv import comparisons_from_csv, comparisons_to_csv
from gwiazda.core.workshop.kinds_json import kinds_from_json
from gwiazda.core.workshop.own import with_kind_of_light, with_swatch
from gwiazda.core.workshop.parts_csv import COLUMNS, parts_from_csv
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop

ROW = "drawer-1,From the drawer,round,3,3,5.3,clear,warm white,30,20,5000,3.05,2.6,9,measured"
LAMPS = ",".join(COLUMNS) + "\n" + ROW + "\n"
COMPARED = (
    Comparison((0.5, 1.25, 3.0), "right", "3 mm round, white, behind the pane Deck 1, port"),
    Comparison((1.5, 2.0, 3.0), "none"),
)
COAT = Coat("my-hull-grey", "Hull grey", "paint", 0.8, 0.3, 12.0, "measured", 0.05)


def test_own_coats_without_own_lamps_are_loaded_and_outlive_the_next_keep(tmp_path):
    save_workshop(Workshop().with_coat(COAT), tmp_path)
    assert not (tmp_path / "parts.csv").exists()
    found, said = load_workshop(tmp_path)
    assert said == () and found.coats["my-hull-grey"] == COAT
    found, new_id = with_swatch(found, "Tank blue", Swatch(1.1, 0.04, 1.0, ()), 0.2)
    save_workshop(found, tmp_path)
    again, _ = load_workshop(tmp_path)
    assert set(again.coats) == {"my-hull-grey", new_id} and again.catalogue.coats[new_id].density == 1.1


def test_both_are_kept_and_come_back_equal(tmp_path):
    workshop = Workshop().with_lamps(*parts_from_csv(LAMPS)).with_coat(COAT).with_compared(COMPARED)
    save_workshop(workshop, tmp_path)
    found, said = load_workshop(tmp_path)
    assert said == () and found == workshop
    save_workshop(Workshop(), tmp_path)
    assert load_workshop(tmp_path)[0] == Workshop() and list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    ("name", "data"),
    [("parts.csv", b"id;what\n\xff\xfe"), ("parts.csv", b"id,form\nx,chip\n"), ("coats.json", b"{"), ("coats.json", b'{"coats": [{"id": "grey"}]}'),
     ("brightness.csv", b"left,middle,right,answer,held\n1,2,3,both,x\n")],
)  # fmt: skip
def test_an_unreadable_file_is_set_aside_and_said(tmp_path, name, data):
    (tmp_path / name).write_bytes(data)
    found, said = load_workshop(tmp_path)
    assert found == Workshop() and len(said) == 1 and name in said[0] and "unreadable-1" in said[0]
    save_workshop(found.with_lamps(*parts_from_csv(LAMPS)).with_coat(COAT), tmp_path)
    stem, _, suffix = name.partition(".")
    assert (tmp_path / f"{stem}.unreadable-1.{suffix}").read_bytes() == data, "nothing of it is lost"
    assert load_workshop(tmp_path)[1] == ()


def test_the_other_file_is_loaded_all_the_same(tmp_path):
    save_workshop(Workshop().with_coat(COAT), tmp_path)
    (tmp_path / "parts.csv").write_text("what is this")
    found, said = load_workshop(tmp_path)
    assert "my-hull-grey" in found.coats and len(said) == 1


def test_what_a_killed_save_left_is_cleared(tmp_path):
    path = tmp_path / "plan.gwiazda"
    gone = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, text=True, check=True)  # fmt: skip
    dead = tmp_path / f".plan.gwiazda.{gone.stdout.strip()}.part"
    alive = tmp_path / f".plan.gwiazda.{os.getppid()}.part"
    other = tmp_path / f".other.gwiazda.{gone.stdout.strip()}.part"
    for p in (dead, alive, other):
        p.write_bytes(b"half")
    write_atomically(path, b"whole")
    assert path.read_bytes() == b"whole"
    assert not dead.exists() and alive.exists() and other.exists()
    clear_parts(tmp_path / "nowhere" / "x")


def test_a_save_killed_in_the_middle_leaves_the_old_file_and_the_next_one_clears_up(tmp_path):
    path = tmp_path / "a.gwiazda"
    write_atomically(path, b"old")
    script = (
        "import os, sys, signal\nfrom pathlib import Path\nfrom gwiazda.core import files\n"
        "files.os.fsync = lambda fd: os.kill(os.getpid(), signal.SIGKILL)\n"
        "files.write_atomically(Path(sys.argv[1]), b'new')\n"
    )
    assert subprocess.run([sys.executable, "-c", script, str(path)], check=False).returncode == -9
    assert path.read_bytes() == b"old" and len(list(tmp_path.iterdir())) == 2
    write_atomically(path, b"newer")
    assert [p.name for p in tmp_path.iterdir()] == ["a.gwiazda"]


def test_where_nothing_can_be_written_the_old_file_stays(tmp_path):
    with pytest.raises(PlanFileError, match="can't be written"):
        write_atomically(tmp_path / "no" / "a", b"x")
    assert set_aside(tmp_path / "nothing") is None


def test_the_command_line_knows_own_coats(tmp_path, monkeypatch, capsys):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    plan = skins.add_coats(deck_plan(), "deck1", "inside", "my-hull-grey", 2)
    path = tmp_path / "own.gwiazda"
    storage.save(storage.PlanFile(plan, {}), path)
    main(["check", str(path)])
    assert "no coat “my-hull-grey”" in capsys.readouterr().out, "named as unknown while it isn't kept"
    save_workshop(Workshop().with_coat(COAT), tmp_path / "gwiazda")
    main(["check", str(path)])
    assert "no coat" not in capsys.readouterr().out


@pytest.mark.parametrize(
    ("row", "words"),
    [({"density": -1.0}, "out of range"), ({"reflectance": 2.0}, "out of range"), ({"id": "grey"}, "begins with my-"), ({"more": 1}, "other fields")],
)  # fmt: skip
def test_a_coat_that_cannot_be_is_named_by_its_row(row, words):
    good = json.loads(coats_to_json([COAT]))["coats"][0]
    with pytest.raises(PlanError, match=f"row 2.*{words}"):
        coats_from_json(json.dumps({"coats": [good, {**good, **row}]}))
    assert coats_from_json(coats_to_json([COAT])) == {"my-hull-grey": COAT}


def test_a_catalogue_with_own_things_is_another_value():
    own = Workshop().with_coat(COAT).catalogue
    assert "my-hull-grey" in own.coats and "my-hull-grey" not in built_in().coats
    assert Workshop().catalogue is built_in()


def test_kinds_of_lights_of_ones_own_stand_beside_the_generic_ones(tmp_path):
    workshop, kind_id = with_kind_of_light(
        Workshop(), built_in().light_kinds["deck-flood"], "Stairwell  lamp", "tip", "amber"
    )
    assert kind_id == "my-stairwell-lamp"
    save_workshop(workshop, tmp_path)
    found, said = load_workshop(tmp_path)
    assert not said and found == workshop
    own = found.catalogue.light_kinds[kind_id]
    assert own.name == "Stairwell lamp" and own.means[0] == "tip" and own.colours == ("amber",) and own.real_cd == 5000
    assert kind_id in found.catalogue.own and "deck-flood" in found.catalogue.light_kinds
    with pytest.raises(PlanError, match="no name"):
        with_kind_of_light(Workshop(), own, "  ", "", "")


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ({"id": "my-a", "name": "A"}, "other fields"),
        ({"id": "a", "name": "A", "group": "g", "means": ["tip"]}, "begins with my-"),
        ({"id": "my-a", "name": "A", "group": "g", "means": ["magic"]}, "the means magic"),
        ({"id": "my-a", "name": "A", "group": "g", "means": ["tip"], "colours": ["beige"]}, "the colours beige"),
        ({"id": "my-a", "name": "A", "group": "g", "means": ["tip"], "real_cd": -1}, "out of range"),
        ({"id": "my-a", "name": "A", "group": "g", "means": ["tip"], "real_m": float("nan")}, "out of range"),
        ({"id": "my-a", "name": "A", "group": "g", "means": "tip"}, "means"),
        ({"id": "my-a", "name": "A", "group": "g", "means": ["tip"], "run": "rm"}, "other fields"),
        ([], "other fields"),
    ],
)
def test_a_kind_of_light_that_cannot_be_is_said_and_set_aside(row, words, tmp_path):
    text = json.dumps({"light_kinds": [row]})
    with pytest.raises(PlanError, match=words):
        kinds_from_json(text)
    (tmp_path / "light_kinds.json").write_text(text)
    workshop, said = load_workshop(tmp_path)
    assert not workshop.light_kinds and len(said) == 1 and "Nothing is lost" in said[0]
    for broken in ("", "[]", "{", '{"light_kinds": 3}'):
        with pytest.raises(PlanError, match="can't be read"):
            kinds_from_json(broken)


@pytest.mark.parametrize(
    ("row", "word"),
    [
        ("1,2,3,maybe,x", "row 2"), ("1,2,3,left", "row 2"), ("1,two,3,left,x", "row 2"), ("0,1,2,left,x", "row 2"), ("3,2,1,left,x", "don’t rise"),
        ("1,1,2,left,x", "don’t rise"), ("nan,1,2,left,x", "row 2"),
    ],
)  # fmt: skip
def test_a_look_compared_that_isn_t_one_is_said_with_its_row(row, word):
    with pytest.raises(PlanError, match=word):
        comparisons_from_csv(f"left,middle,right,answer,held\n{row}\n")


def test_looks_compared_come_back_equal_and_a_formula_stays_words():
    odd = (Comparison((1e-5, 1.0, 9e5), "left", '=cmd, "quoted"\nand a line'),)
    assert comparisons_from_csv(comparisons_to_csv(odd)) == odd
    with pytest.raises(PlanError, match="heading"):
        comparisons_from_csv("a,b\n")

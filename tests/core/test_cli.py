"""The command line, as a process of its own where it matters."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from gwiazda.cli import main
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

REFERENCE = Path(__file__).parent.parent / "reference" / "data" / "circuits.json"


def run(*arguments: str, **kwargs) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "gwiazda", *arguments], capture_output=True, text=True, check=False, **kwargs
    )


def test_version_and_help():
    assert run("--version").stdout.startswith("gwiazda 0.")
    assert "open|demo|new|check|quick|export|sheets|steps|diagnose|schema|verify" in run("--help").stdout


def test_check_prints_the_assessment(capsys):
    assert main(["check", str(path_of())]) == 0
    out = capsys.readouterr().out
    assert "Run time" in out and "Deck 1, front wall leaks" in out


def test_check_json(capsys):
    assert main(["check", "--json", str(path_of())]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["kit"] == {"name": "Szron", "scale": "1/200"} and len(data["lamps"]) == 42


@pytest.mark.parametrize(
    "command",
    [["check", str(path_of())], ["verify", str(REFERENCE)], ["schema"], ["export", str(path_of()), "--shopping", "-"]],
)
def test_no_qt_is_imported_for_what_needs_no_window(command):
    code = (
        "import sys\nfrom gwiazda.cli import main\n"
        f"status = main({command!r})\n"
        "bad = [m for m in sys.modules if m.split('.')[0] in ('PySide6', 'shiboken6', 'pyqtgraph')]\n"
        "sys.exit(99 if bad else status)"
    )
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, check=False).returncode == 0


def test_errors_are_one_sentence(tmp_path):
    broken = tmp_path / "b.gwiazda"
    broken.write_bytes(path_of().read_bytes()[:500])
    done = run("check", str(broken))
    assert done.returncode == 2 and done.stdout == ""
    assert done.stderr.count("\n") == 1 and "damaged" in done.stderr and "Traceback" not in done.stderr


def test_findings_that_stop_set_the_exit_status(tmp_path, capsys):
    data = {"version": 1, "lamps": [{"id": "a", "part": "moonshine", "at": [0, 0, 0]}]}
    path = tmp_path / "p.json"
    path.write_text(json.dumps(data))
    assert main(["check", str(path)]) == 1
    assert "moonshine" in capsys.readouterr().out


def test_verify(capsys, tmp_path):
    assert main(["verify", str(REFERENCE)]) == 0
    assert "worst of 12" in capsys.readouterr().out
    assert main(["verify", "--json", str(REFERENCE)]) == 0
    ours, theirs = json.loads(capsys.readouterr().out), json.loads(REFERENCE.read_text())
    assert [c["name"] for c in ours] == [c["name"] for c in theirs]
    assert ours[0]["solution"].keys() == theirs[0]["solution"].keys()
    single = {k: v for k, v in theirs[1].items() if k != "solution"}
    (tmp_path / "one.json").write_text(json.dumps(single))
    assert main(["verify", str(tmp_path / "one.json")]) == 0
    assert "solved" in capsys.readouterr().out
    theirs[0]["solution"]["currents"]["R1"] *= 2
    (tmp_path / "wrong.json").write_text(json.dumps(theirs[:1]))
    assert main(["verify", str(tmp_path / "wrong.json")]) == 1


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ("[]", "holds no cases"), ("nonsense", "not readable JSON"), ('[{"elements": []}]', "no elements"),
        ('[{"elements": [{"kind": "coil", "id": "L1"}]}]', "Element L1"),
        ('[{"elements": [{"kind": "resistor", "id": "R1", "a": "x", "b": "0"}]}]', "Element R1, ohms"),
        ('[{"box": [1, 2, 3]}]', "is no cavity"), ('[{"box": [1, 2, 3], "elements": []}, {"elements": []}]', "no elements"),
    ],
)  # fmt: skip
def test_verify_names_what_is_wrong(tmp_path, capsys, content, words):
    path = tmp_path / "v.json"
    path.write_text(content)
    assert main(["verify", str(path)]) == 2
    assert words in capsys.readouterr().err


def test_schema_is_json(capsys):
    assert main(["schema"]) == 0
    assert json.loads(capsys.readouterr().out)["title"] == "Gwiazda plan, version 13"


def test_export(tmp_path, capsys):
    csv_path, png_path = tmp_path / "s.csv", tmp_path / "n.png"
    assert (
        main(["export", str(path_of()), "--shopping", str(csv_path), "--night", str(png_path), "--size", "640x360"])
        == 0
    )
    assert csv_path.read_text().startswith("kind,part,detail")
    data = png_path.read_bytes()
    assert data[:4] == b"\x89PNG" and data[16:24] == (640).to_bytes(4, "big") + (360).to_bytes(4, "big")
    assert main(["export", str(path_of())]) == 2
    assert main(["export", str(path_of()), "--night", str(png_path), "--size", "big"]) == 2
    assert main(["export", str(path_of()), "--night", str(png_path), "--view", "attic"]) == 2
    assert "view.port" in capsys.readouterr().err


def test_without_a_display_the_demo_writes_pictures(tmp_path):
    import os

    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    done = run("demo", "--out", str(tmp_path / "out"), env=environment)
    assert done.returncode == 0, done.stderr
    assert "no display" in done.stdout and "Run time" in done.stdout
    assert len(list((tmp_path / "out").glob("*.png"))) == 4
    opened = run("open", env=environment)
    assert opened.returncode == 2 and "no display" in opened.stderr


def test_the_demo_file_is_what_its_maker_makes(tmp_path):
    tool = Path(__file__).parents[2] / "tools" / "make_szron.py"
    source = tool.read_text().replace(
        'Path(__file__).parent.parent / "src/gwiazda/demos/szron.gwiazda"', f'Path("{tmp_path}/szron.gwiazda")'
    )
    (tmp_path / "make.py").write_text(source)
    subprocess.run([sys.executable, str(tmp_path / "make.py")], check=True, capture_output=True)
    assert (tmp_path / "szron.gwiazda").read_bytes() == path_of().read_bytes()


FREEDESKTOP = Path(__file__).parents[2] / "src/gwiazda/freedesktop"
NAME = "io.github.gwiazda.Gwiazda"


def test_desktop_files_are_sound():
    import configparser
    import xml.etree.ElementTree as ET

    entry = configparser.ConfigParser(interpolation=None)
    entry.read(FREEDESKTOP / f"{NAME}.desktop")
    section = entry["Desktop Entry"]
    assert section["Exec"].startswith("gwiazda open") and "application/x-gwiazda" in section["MimeType"]
    assert section["StartupWMClass"] == "gwiazda"
    for name in (f"{NAME}.metainfo.xml", f"{NAME}-mime.xml", f"{NAME}.svg"):
        assert ET.parse(FREEDESKTOP / name).getroot().tag
    if shutil.which("desktop-file-validate"):
        subprocess.run(["desktop-file-validate", str(FREEDESKTOP / f"{NAME}.desktop")], check=True)
    if shutil.which("appstreamcli"):
        subprocess.run(["appstreamcli", "validate", "--no-net", str(FREEDESKTOP / f"{NAME}.metainfo.xml")], check=True, capture_output=True)  # fmt: skip


def test_changelog_metainfo_and_package_name_one_version():
    from gwiazda import __version__

    root = Path(__file__).parents[2]
    top = next(line for line in (root / "CHANGELOG.md").read_text().splitlines() if line.startswith("## "))
    assert top.split()[1] == __version__
    metainfo = (FREEDESKTOP / f"{NAME}.metainfo.xml").read_text()
    assert f'<release version="{__version__}"' in metainfo
    assert ("unreleased" in top) == ('type="development"' in metainfo)


def test_the_manual_page_and_completion_are_those_of_the_commands(monkeypatch):
    monkeypatch.syspath_prepend(str(Path(__file__).parents[2] / "tools"))
    import make_manual

    assert (FREEDESKTOP / "gwiazda.1").read_text() == make_manual.manual()
    assert (FREEDESKTOP / "gwiazda.bash").read_text() == make_manual.completion()
    if shutil.which("bash"):
        ask = "source $1; COMP_WORDS=(gwiazda sh); COMP_CWORD=1; _gwiazda; echo ${COMPREPLY[@]}; COMP_WORDS=(gwiazda export --ni); COMP_CWORD=2; _gwiazda; echo ${COMPREPLY[@]}"
        words = subprocess.run(["bash", "-c", ask, "bash", str(FREEDESKTOP / "gwiazda.bash")], check=True, capture_output=True, text=True)  # fmt: skip
        assert words.stdout.split() == ["sheets", "--night"] and not words.stderr


def test_the_desktop_gets_its_entry_and_loses_it_again(tmp_path, monkeypatch, capsys):
    home = tmp_path / "data home"
    monkeypatch.setenv("XDG_DATA_HOME", str(home))
    assert main(["desktop-entry"]) == 0
    entry = (home / f"applications/{NAME}.desktop").read_text()
    command = next(line for line in entry.splitlines() if line.startswith("Exec="))
    assert command.endswith(" open %f") and "/" in command, (
        "the whole path: a menu doesn't know an environment of its own"
    )
    assert (home / f"icons/hicolor/256x256/apps/{NAME}.png").read_bytes().startswith(b"\x89PNG")
    assert main(["desktop-entry", "--remove"]) == 0
    assert not [p for p in home.rglob("*") if p.is_file() and "wiazda" in p.name]
    assert "removed" in capsys.readouterr().out


def test_currents_of_the_show_and_carriers_go_out(tmp_path):
    currents, solids = tmp_path / "currents.csv", tmp_path / "carriers.stl"
    assert main(["export", str(path_of("bryla")), "--currents", str(currents), "--carriers", str(solids)]) == 0
    rows = currents.read_text().splitlines()
    assert rows[0].startswith("of,lamps,fully_on_mA") and len(rows) > 2
    assert len(solids.read_bytes()) > 84 + 50 * 12, "a heading, and more triangles than a box has"


def test_export_checks_everything_before_it_writes_the_first_file(tmp_path, capsys):
    plan, table = str(path_of("perkoz")), tmp_path / "list.csv"
    for bad, words in (
        (["--night", str(tmp_path / "x.bmp")], "“.bmp”"),
        (["--night", str(tmp_path / "n.png"), "--view", "nowhere"], "no view “nowhere”"),
        (["--round", str(tmp_path / "r.png"), "--eye", "up"], "“up”"),
        (["--loom", str(tmp_path / "none" / "l.csv")], "no folder"),
        (["--circuit", str(tmp_path / "c.docx")], "“.docx”"),
        (["--carriers", str(tmp_path / "c.stl")], "nothing holds lamps"),
    ):
        assert main(["export", plan, "--shopping", str(table), *bad]) == 2
        assert words in capsys.readouterr().err and not table.exists(), bad
    assert main(["export", plan, "--shopping", str(table), "--moving", str(tmp_path / "m.apng"), "--seconds", "0.2", "--size", "96x64"]) == 0  # fmt: skip
    said = capsys.readouterr().err
    assert f"wrote {table}" in said and "wrote" in said.splitlines()[-1] and table.exists()
    assert (tmp_path / "m.apng").read_bytes().startswith(b"\x89PNG"), "a show that changes nothing is one frame"


def test_published_schema_and_docs_are_current():
    root = Path(__file__).parents[2]
    from gwiazda.core.plan.storage import schema

    assert json.loads((root / "docs/plan.schema.json").read_text()) == schema()
    readme = (root / "README.md").read_text()
    for picture in (root / "docs/screenshots").glob("*.png"):
        assert picture.name in readme
    for link in ("docs/guide.md", "docs/computation.md", "docs/file-format.md", "docs/check.md"):
        assert link in readme and (root / link).exists()


def test_verify_says_what_a_wall_lacks(tmp_path, capsys):
    path = tmp_path / "walls.json"
    path.write_text(json.dumps([{"name": "w", "wall_mm": 1.0, "pane": [0, 0, 1], "share": 0.1}]))
    assert main(["verify", str(path)]) == 2
    assert "Wall case w: fields are missing or no numbers." in capsys.readouterr().err


def test_check_tells_all_sources_and_parts(capsys):
    assert main(["check", str(path_of("swistak")), "--json"]) == 1, "a motor without its diode stops the build"
    data = json.loads(capsys.readouterr().out)
    assert set(data["feeds"]) == {"supply"} and data["feeds"]["supply"] == data["supply"]
    regulator = data["parts"]["winch.regulator"]
    assert regulator["kind"] == "regulator" and 0.2 < regulator["heat_w"] < 0.3 and regulator["limit_a"] == 1.0
    # Ohm's law by hand: 3 V on 100 Ω of running motor, a little lost in the stage and the regulator.
    assert abs(data["parts"]["winch.motor"]["current_a"] - 0.03) < 1e-4


def test_a_display_that_cant_be_reached_is_a_sentence():
    far = {**os.environ, "DISPLAY": ":7799", "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": "xcb"}
    done = subprocess.run(
        [sys.executable, "-m", "gwiazda", "open"], check=False, env=far, capture_output=True, text=True
    )
    assert done.returncode == 2 and "display “:7799”" in done.stderr and "Traceback" not in done.stderr


def test_where_nothing_can_be_kept_pictures_are_drawn_without_compiled_loops(tmp_path):
    """Neither the package's folder nor the user's is writable: said once, and the pictures are there."""
    script = (
        "import numba.core.caching as c; c.CacheImpl._locator_classes = []\n"
        "from gwiazda.cli import main\nfrom gwiazda.demos import path_of\nimport sys\n"
        "plan, out = str(path_of('perkoz')), sys.argv[1]\n"
        "sys.exit(main(['export', plan, '--round', out + '/r.png', '--moving', out + '/m.gif', '--seconds', '0.2', '--size', '96x64']))"
    )
    done = subprocess.run([sys.executable, "-c", script, str(tmp_path)], check=False, capture_output=True, text=True)
    assert done.returncode == 0 and done.stderr.count("drawn more slowly") == 1 and "Traceback" not in done.stderr
    assert (tmp_path / "r.png").stat().st_size > 500 and (tmp_path / "m.gif").stat().st_size > 500


@pytest.mark.parametrize("table", ["shopping", "fibres", "loom", "pins", "currents", "show", "circuit", "steps"])
def test_the_columns_of_every_table_are_in_the_docs(table, tmp_path, capsys):
    plan, out = str(path_of("bryla")), tmp_path / "t.csv"
    asked = ["steps", plan, "--csv", str(out)] if table == "steps" else ["export", plan, f"--{table}", str(out)]
    assert main(asked) == 0
    told = (Path(__file__).parents[2] / "docs/tables.md").read_text()
    section = told.split(f"--{table} FILE" if table != "steps" else "gwiazda steps PLAN")[1].split("\n## ")[0]
    for column in out.read_text().splitlines()[0].split(","):
        assert f"`{column}`" in section, f"{table}: {column}"


def test_a_plan_is_made_from_a_shape(tmp_path, capsys):
    path = tmp_path / "boat.gwiazda"
    asked = ["new", "ship", str(path), "--length", "240 mm", "--scale", "1/350", "--decks", "2", "--windows", "8", "--name", "Boat"]  # fmt: skip
    assert main(asked) == 0
    said = capsys.readouterr().out
    plan = load(path).plan
    assert plan.kit.name == "Boat" and plan.kit.scale == 350.0 and f"{len(plan.lamps)} lamps" in said
    assert len(plan.lamps) >= 2 and any(o.lit > 0 for o in plan.openings) and "left to settle" not in said
    before = path.read_bytes()
    assert main(asked) == 2 and path.read_bytes() == before, "what is there is left alone"
    assert "is there already" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        (["saucer", "a.gwiazda"], "ship, fuselage, vehicle, truss, tower"),
        (["ship", "a.txt"], ".gwiazda"),
        (["ship", "a.gwiazda", "--length", "long"], "Length"),
        (["ship", "a.gwiazda", "--length", "20 mm"], "60 to 2000"),
        (["ship", "a.gwiazda", "--scale", "1:0"], "1/N"),
        (["ship", "a.gwiazda", "--decks", "2.5"], "whole number"),
        (["ship", "a.gwiazda", "--windows", "900"], "from 1 to 200"),
        (["ship", "a.gwiazda", "--windows", "150"], "side by side"),
    ],
)
def test_what_no_shape_can_have_is_said(tmp_path, monkeypatch, capsys, asked, words):
    monkeypatch.chdir(tmp_path)
    assert main(["new", *asked]) == 2
    said = capsys.readouterr().err
    assert words in said and said.count("\n") == 1 and not list(tmp_path.glob("*.gwiazda"))


def test_the_help_names_every_sheet_there_is():
    from gwiazda.core.drawing.sheets.kinds import KINDS as SHEETS

    said = subprocess.run(
        [sys.executable, "-m", "gwiazda", "sheets", "--help"], capture_output=True, text=True, check=True
    ).stdout
    named = " ".join(said.split()).split("--only ONLY ", 1)[1].split(":", 1)[0]
    assert [w.strip() for w in named.split(",")] == [k.id for k in SHEETS]

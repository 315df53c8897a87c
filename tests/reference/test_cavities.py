"""Light inside of boxes against answers by photon tracing, and through ``gwiazda verify``."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from gwiazda.cli import main
from gwiazda.core.exchange.cases.cavity_cases import solved_cavity

FILE = Path(__file__).parent / "data" / "cavities.json"
CASES = json.loads(FILE.read_text())


@pytest.mark.parametrize("case", CASES, ids=[c["name"].split()[0] for c in CASES])
def test_every_window_gets_the_light_that_photons_bring(case):
    lux = solved_cavity(case, "case")["mean_incident_lux_on_window"]
    known = case["solution"]["mean_incident_lux_on_window"]
    allowed = 0.05 if case["baffles"] else 0.03
    worst = max(abs(lux[k] / known[k]["mean"] - 1.0) for k in known)
    assert worst < allowed


def test_verify_reads_them_and_says_how_far_off(capsys, tmp_path):
    assert CASES, "the reference cases are part of the project"
    path = tmp_path / "two.json"
    path.write_text(json.dumps(CASES[:2]))
    assert main(["verify", str(path)]) == 0
    out = capsys.readouterr().out
    assert "worst of 2" in out and CASES[0]["name"] in out
    wrong = json.loads(json.dumps(CASES[:1]))
    for value in wrong[0]["solution"]["mean_incident_lux_on_window"].values():
        value["mean"] *= 2
    path.write_text(json.dumps(wrong))
    assert main(["verify", str(path)]) == 1


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda c: c.update(box=[80, 0, 25]), "three sizes above zero"), (lambda c: c["rho"].update(x0=1.4), "reflectance of 1.4"),
        (lambda c: c["lamps"][0].update(aim=[0, 0, 0]), "aim of no length"), (lambda c: c["lamps"][0].update(at=[400, 1, 1]), "outside the box"),
        (lambda c: c["windows"][0].update(a=[9, 9]), "no size"), (lambda c: c["windows"][0].update(face="roof"), "is no cavity"),
        (lambda c: c["lamps"][0].update(lumens=-1), "less than no light"), (lambda c: c.pop("rho"), "is no cavity"),
    ],
)  # fmt: skip
def test_what_is_no_cavity_is_named(change, words, capsys, tmp_path):
    case = json.loads(json.dumps(CASES[0]))
    change(case)
    path = tmp_path / "bad.json"
    path.write_text(json.dumps([case]))
    assert main(["verify", str(path)]) == 2
    assert words in capsys.readouterr().err

"""Tables and words that go out: no formula, no code, nothing that isn't well-formed; and back in as they were."""

from __future__ import annotations

import csv
import io
import re
import shutil
import subprocess

import pytest
from defusedxml.ElementTree import fromstring
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import PlanError
from gwiazda.core.escaping import in_c_comment, in_markdown, in_xml, well_formed
from gwiazda.core.exchange.brief import brief, pin_table
from gwiazda.core.exchange.carriers import carriers_file
from gwiazda.core.exchange.header import c_header
from gwiazda.core.exchange.report import shopping_csv
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import set_fields
from gwiazda.core.plan.storage import load
from gwiazda.core.tables import read_rows, shielded, write_table
from gwiazda.core.workbench.readings_csv import read_readings
from gwiazda.core.workshop.drawer_csv import drawer_from_csv
from gwiazda.core.workshop.kept_csv import kept_from_csv
from gwiazda.core.workshop.parts_csv import parts_from_csv
from gwiazda.demos import path_of

NASTY = (
    "*/ int main(void){return 1;} /*",
    "=1+2",
    "+cmd|' /C calc'!A0",
    "-2+3",
    "@SUM(A1)",
    "a<b&\"c'>",
    "| x | y |",
    "??/",
)
TEXT = st.text(st.characters(blacklist_categories=("Cs",), blacklist_characters="\r\0"), max_size=30)


@given(st.lists(st.lists(TEXT, min_size=3, max_size=3), max_size=8))
def test_any_table_comes_back_as_it_was_and_holds_no_formula(rows):
    plain = [["".join(c for c in cell if c >= " " or c in "\t\n") for cell in row] for row in rows]
    text = write_table(["a", "b", "c"], rows)
    assert [r for _, r in read_rows(text, "T")][1:] == [r for r in plain if any(c.strip() for c in r)]
    for row in csv.reader(io.StringIO(text, newline="")):
        for cell in row:
            assert cell[:1] not in "=+-@\t" or cell == "" or len(cell) == 1 or re.fullmatch(r"[+-][\d.,e+-]+", cell)


def test_numbers_and_dashes_stay_as_they_are():
    assert [shielded(x) for x in (-3.5, "+2", "-", "−4", "1e-5", "-1e+5", "text")] == [
        "-3.5", "+2", "-", "−4", "1e-5", "-1e+5", "text",
    ]  # fmt: skip
    assert shielded("-2+3") == "'-2+3"


@pytest.mark.parametrize("read", [parts_from_csv, drawer_from_csv, kept_from_csv, read_readings])
@pytest.mark.parametrize("broken", ['kind,part,"' + "x" * 200_000, "a,b\n" * 50, "", '"', "\0,\0\n1,2"])
def test_a_broken_table_is_refused_in_a_sentence(read, broken):
    with pytest.raises(PlanError) as told:
        read(broken)
    assert str(told.value).count(". ") <= 2 and "Error" not in str(told.value)


@pytest.mark.parametrize("value", ["nan", "inf", "-inf", "1e400", "1e9", "x", "9" * 400])
def test_a_reading_that_is_no_number_is_refused(value):
    with pytest.raises(PlanError, match=r"Readings, line 2: .* is not a number"):
        read_readings(f"what,at,value\nvolts,supply,{value}\n")


@pytest.mark.parametrize("name", NASTY)
def test_a_name_becomes_no_code_and_no_formula(tmp_path, name):
    plan = load(path_of("bryla")).plan
    plan = edits.set_kit(plan, name=name)
    for group in ("channels", "boards", "cues", "sections", "carriers"):
        plan = set_fields(plan, [i.id for i in getattr(plan, group)], name=name)
    assessment = assess(plan, built_in())
    header = c_header(plan, assessment, seconds=1.0)
    code = re.sub(r"/\*.*?\*/", "", header, flags=re.DOTALL)
    assert "main" not in code and "calc" not in code and header.count("/*") == header.count("*/")
    if (cc := shutil.which("gcc") or shutil.which("cc")) is not None:
        (tmp_path / "show.h").write_text(header)
        (tmp_path / "a.c").write_text('#include "show.h"\nint main(void) { return gwiazda_level(0u, 0u) == 3u; }\n')
        flags = ["-Wall", "-Wextra", "-Werror", "-std=c99", "-o", str(tmp_path / "a")]
        done = subprocess.run([cc, *flags, str(tmp_path / "a.c")], capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr
    for text in (pin_table(plan, assessment), shopping_csv(plan, assessment)):
        for row in csv.reader(io.StringIO(text)):
            assert not any(c.startswith(("=", "+", "@")) for c in row)
    for line in brief(plan, assessment).splitlines():
        if line.startswith("|"):
            assert len(re.findall(r"(?<!\\)\|", line)) == 7, line


def test_patterns_are_well_formed_whatever_they_are_called():
    plan = load(path_of("bryla")).plan
    assessment = assess(plan, built_in())
    ids = [c.id for c in plan.carriers]
    assert ids
    for name in NASTY:
        named = edits.set_kit(set_fields(plan, ids, name=name), name=name)
        fromstring(carriers_file(named, assessment, "a.svg"))


@given(st.text(max_size=60))
def test_words_in_xml_and_c_stay_words(text):
    fromstring(f"<a b='{in_xml(text)}'>{in_xml(text)}</a>")
    fromstring(well_formed(f"<a>{in_xml(text)}</a>".encode("utf-8", "replace")))
    comment = in_c_comment(text)
    assert "*/" not in comment and "/*" not in comment and "\n" not in comment and "??" not in comment
    assert not re.search(r"(?<!\\)[|*<]", in_markdown(text))

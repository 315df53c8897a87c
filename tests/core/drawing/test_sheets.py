"""Sheets at true size: what is on them in mm, and what a PDF of them measures."""

import itertools

import numpy as np
import pypdfium2
import pytest

from gwiazda.core.assess.assessment import assess
from gwiazda.core.drawing.sheets import KINDS, PAPERS, pages_of
from gwiazda.core.drawing.sheets.kinds import blocking_templates, window_masks
from gwiazda.core.drawing.sheets.page import BAR_MM, MARGIN_MM, Drawing, laid, line, stacked, table
from gwiazda.core.errors import PlanError, PlanFileError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

CAT = built_in()


@pytest.fixture(scope="module")
def szron():
    plan = load(path_of()).plan
    return plan, assess(plan, CAT)


@pytest.fixture(scope="module")
def application():
    from gwiazda.desktop.shell.application import make_application

    return make_application()


def black(page, scale: float) -> np.ndarray:
    return page.render(scale=scale).to_numpy()[..., 0] < 128


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_the_bar_is_a_hundred_millimetres_on_paper(szron, application, tmp_path, paper):
    """Measured in the rendered page: the longest run of black in a row is the bar."""
    from gwiazda.desktop.shell.export.paper import write_sheets

    plan, found = szron
    (path,) = write_sheets(plan, found, tmp_path / "s.pdf", paper)
    pdf = pypdfium2.PdfDocument(str(path))
    assert len(pdf) == len(pages_of(plan, found, PAPERS[paper]))
    scale = 254 / 72  # ten px to a mm
    barred = [k for k in range(len(pdf)) if "100 mm long" in pdf[k].get_textpage().get_text_range()]
    assert barred[0] == 0 and len(barred) < len(pdf), "a table has no bar: there is nothing to measure"
    for k in (0, barred[-1]):
        width, height = pdf[k].get_size()
        size = sorted((width * 25.4 / 72, height * 25.4 / 72))
        assert size == pytest.approx(sorted((PAPERS[paper].width_mm, PAPERS[paper].height_mm)), abs=0.3)
        ink = black(pdf[k], scale)
        at = int((height * 25.4 / 72 - MARGIN_MM - 3.0) * 10)
        row = ink[at - 3 : at + 4].any(axis=0)
        edges = np.flatnonzero(row[: int((MARGIN_MM + BAR_MM + 2) * 10)])
        assert (edges.max() - edges.min() + 1) / 10 == pytest.approx(BAR_MM, abs=0.5)
    text = "\n".join(pdf[k].get_textpage().get_text_range() for k in range(len(pdf)))
    assert "Drill template: Wing console" in text and "no. 80" in text and "Console 1" in text
    assert "This bar is 100 mm long" in text and "Not to scale" in text


def test_windows_lie_on_paper_as_on_the_model(szron):
    """The row of portholes: 27 discs of 2.6 mm, as far apart as on the model."""
    plan, found = szron
    pages = pages_of(plan, found, PAPERS["a4"], ["masks"])[:2]
    assert pages[0].paper.width_mm > pages[0].paper.height_mm, "lying on its side it takes fewer"
    words = [m.text for m in pages[0].body if m.kind == "text"]
    assert "Masks: Hull, port" in words and "Masks: Hull, starboard" in words, "both sides together, over two pages"
    split = next(m.points[0][1] for m in pages[0].body if m.text == "Masks: Hull, starboard")
    discs = [m for m in pages[0].body if m.kind == "disc" and m.points[0][1] < split]
    assert len(discs) == 27 and {round(m.size, 3) for m in discs} == {1.3}
    xs = sorted(m.points[0][0] for m in discs)
    assert np.diff(xs) == pytest.approx((322.0 - 44.0) / 26, rel=1e-6)
    assert pages[1].shift[0] < pages[0].shift[0]


def test_a_blocking_template_is_the_mirror_of_the_masks(szron):
    drilled, found = szron
    with pytest.raises(PlanError, match="nothing to put"):
        pages_of(drilled, found, PAPERS["a4"], ["blocking"])  # windows that are drilled want none
    plan = edits.set_fields(drilled, ["deck1"], glazing="print")
    masks = next(d for d in window_masks(plan, found, PAPERS["a4"]) if "Deck 1, port" in d.title)
    block = next(d for d in blocking_templates(plan, found, PAPERS["a4"]) if "Deck 1, port" in d.title)
    panes = [m for m in block.marks if m.fill == 1.0]
    lit = [o for o in plan.openings if o.section == "deck1" and o.side == "port" and o.lit > 0]
    assert len(panes) == len(lit) < len([m for m in masks.marks if m.kind == "outline"]) - 1
    middle = [sum(x for x, _ in m.points) / 4 for m in panes]
    outer = next(m for m in block.marks if m.fill == 0.0)
    width = max(x for x, _ in outer.points) + min(x for x, _ in outer.points)
    there = [sum(x for x, _ in m.points) / 4 for m in masks.marks if m.kind == "outline" and not m.dashed]
    assert all(min(abs(width - x - t) for t in there) < 0.02 for x in middle)


def test_large_drawings_go_over_several_pages_that_overlap():
    paper = PAPERS["a4"]
    drawing = Drawing("D", (line((0.0, 0.0), (500.0, 400.0)),), 500.0, 400.0)
    pages = laid(drawing, paper)
    room_w, room_h = pages[0].paper.room
    lefts = sorted({MARGIN_MM - p.shift[0] for p in pages})
    assert lefts[-1] + room_w >= 500.0 and all(b - a <= room_w - 9.9 for a, b in itertools.pairwise(lefts))
    assert len(pages) * room_w * room_h > 500 * 400 and "(1 of" in pages[0].title
    small = [Drawing(f"S: {k}", (), 50.0, 40.0) for k in range(7)]
    assert 1 < len(stacked(small, paper)) < 7 and sum(d.height_mm for d in stacked(small, paper)) >= 280


def test_svg_of_each_page_and_its_size(szron, application, tmp_path):
    from gwiazda.desktop.shell.export.paper import write_sheets

    plan, found = szron
    written = write_sheets(plan, found, tmp_path / "s.svg", "a4", ["map", "tags"])
    assert [p.name for p in written] == ["s-01.svg", "s-02.svg", "s-03.svg"]
    head = written[0].read_text()[:1500]
    assert 'width="210mm"' in head and 'height="297mm"' in head


def test_what_can_not_be_printed_is_said(szron, application, tmp_path):
    from gwiazda.desktop.shell.export.paper import write_sheets

    plan, found = szron
    with pytest.raises(PlanFileError, match="no paper"):
        write_sheets(plan, found, tmp_path / "s.pdf", "a6")
    with pytest.raises(PlanFileError, match="can't be written as"):
        write_sheets(plan, found, tmp_path / "s.doc")
    with pytest.raises(PlanError, match="no sheet “stencil”"):
        write_sheets(plan, found, tmp_path / "s.pdf", "a4", ["stencil"])
    with pytest.raises(PlanError, match="nothing to put on them"):
        pages_of(Plan(), assess(Plan(), CAT), PAPERS["a4"])
    assert {k.id for k in KINDS} == {
        "drill",
        "boards",
        "half",
        "polarity",
        "log",
        "masks",
        "blocking",
        "greys",
        "carriers",
        "map",
        "tags",
        "lists",
        "steps",
        "tests",
        "closings",
        "care",
    }


def test_the_command_writes_them(tmp_path, capsys, monkeypatch):
    from gwiazda.cli import main

    out = tmp_path / "x.pdf"
    assert main(["sheets", str(path_of("bryla")), "--out", str(out), "--paper", "Letter", "--only", "tags,lists"]) == 0
    assert out.read_bytes().startswith(b"%PDF") and "wrote" in capsys.readouterr().out
    assert main(["sheets", str(path_of("bryla")), "--out", str(out), "--only", "poster"]) == 2
    assert main(["export", str(path_of("bryla")), "--fibres", "-", "--loom", str(tmp_path / "l.csv")]) == 0
    assert "drill,fibre-0.25,84" in capsys.readouterr().out and "trunk" in (tmp_path / "l.csv").read_text()


def test_the_bench_book_is_one_pdf_of_pictures_circuits_and_sheets(szron, application, tmp_path, capsys):
    from gwiazda.core.errors import StoppedError
    from gwiazda.core.plan.storage import load as load_file
    from gwiazda.desktop.shell.export.book import write_book

    plan, found = szron
    file = load_file(path_of())
    shares: list[float] = []
    path = write_book(file, found, tmp_path / "book.pdf", "letter", lambda share: shares.append(share) or True)
    pdf = pypdfium2.PdfDocument(str(path))
    assert len(pdf) <= 1 + len(plan.views) + 2 + 3 + len(pages_of(plan, found, PAPERS["letter"]))
    every = [pdf[k].get_textpage().get_text_range() for k in range(len(pdf))]
    assert all(f"{k} of {len(pdf)}" in words for k, words in enumerate(every, 1)), "each page has its number"
    # What the contents say is where they say it.
    contents = every[0]
    for entry in contents.splitlines():
        words, _, number = entry.strip().rpartition(" ")
        if words in ("Circuits", "Cautions", "Which end is plus", "Fibre map"):
            there = every[int(number) - 1].lower()
            assert {
                "Circuits": "circuits",
                "Cautions": "care",
                "Which end is plus": "which end",
                "Fibre map": "fibre map",
            }[words] in there
    assert "How it stands" in contents and "To fix" in contents and "What to buy" in contents
    assert {(round(pdf[k].get_size()[0]), round(pdf[k].get_size()[1])) for k in range(len(pdf))} == {
        (612, 792),
        (792, 612),
    }, "Letter, upright or lying"
    assert shares == sorted(shares) and shares[-1] == 1.0
    text = "\n".join(pdf[k].get_textpage().get_text_range() for k in range(len(pdf)))
    assert all(
        w in text
        for w in (
            "Port side",
            "circuits",
            "Steps of the build",
            "Test sheet",
            "Drill template",
            "Before Deck 1 is closed",
        )
    )
    # The night below the works: darker by far.
    page = pdf[1].render(scale=0.5).to_numpy()[..., :3].mean(axis=(1, 2))
    assert page[: len(page) // 2].mean() > 150 > 75 > page[-len(page) // 3 : -len(page) // 10].mean()
    with pytest.raises(StoppedError):
        write_book(file, found, tmp_path / "no.pdf", "a4", lambda share: share < 0.3)
    assert not (tmp_path / "no.pdf").exists()
    with pytest.raises(PlanFileError, match="can't be written as"):
        write_book(file, found, tmp_path / "book.doc")


def test_the_book_has_the_log_and_its_photos(application, tmp_path):
    from gwiazda.core.plan import edits
    from gwiazda.core.plan.storage import PlanFile
    from gwiazda.core.workbench.photo.photos import jpeg_of
    from gwiazda.desktop.shell.export.book import MOST_PHOTOS, write_book

    plan = load(path_of("swistak")).plan
    assessment = assess(plan, CAT)
    bare = write_book(PlanFile(plan), assessment, tmp_path / "bare.pdf")
    pictures = {f"p{k}.jpg": jpeg_of(np.full((60, 90, 3), 40 * k, np.uint8)) for k in range(3)}
    for k, name in enumerate(pictures):
        plan, _ = edits.add_entry(plan, "note", f"Photo number {k}", photo=name, at="2026-11-27 20:15")
    plan, _ = edits.add_entry(plan, "decision", "Warm white it is", section=plan.sections[0].id)
    path = write_book(PlanFile(plan, pictures), assessment, tmp_path / "book.pdf")
    pdf = pypdfium2.PdfDocument(str(path))
    text = "\n".join(pdf[k].get_textpage().get_text_range() for k in range(len(pdf)))
    assert len(pdf) >= len(pypdfium2.PdfDocument(str(bare))) + 2, (
        "two pages of photos; the log goes where there is room"
    )
    assert text.count("Photos of the log") == 3 and "Photo number 2" in text and "Warm white it is" in text
    many = plan
    for k in range(MOST_PHOTOS + 6):
        many, _ = edits.add_entry(many, "note", f"again {k}", photo="p0.jpg")
    crowd = write_book(PlanFile(many, pictures), assessment, tmp_path / "crowd.pdf")
    shown = "\n".join(p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(str(crowd)))
    assert shown.count("Photos of the log") == MOST_PHOTOS // 2 + 1
    gone = write_book(PlanFile(plan), assessment, tmp_path / "gone.pdf")
    assert "Photos of the log" not in "\n".join(
        p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(str(gone))
    )


def test_no_name_is_cut_in_a_table_and_small_tables_share_a_page():
    long = "Left headlamp, right headlamp, left tail lamp, right tail lamp and the search lamps"
    (made,) = table("Wires", (("of", 40.0), ("cut", 20.0)), [(long, "1"), ("short", "2")], PAPERS["a4"], [True, False])
    words = " ".join(m.text for m in made.marks if m.kind == "text")
    assert all(w in words for w in long.split()) and "…" not in words
    rows = sorted({m.points[0][1] for m in made.marks if m.text in ("1", "2")})
    assert rows[1] - rows[0] >= 3 * 3.6, "the next row is below all of it"
    boxes = [m for m in made.marks if m.kind == "outline"]
    assert [b.fill for b in boxes] == [0.3, None] and boxes[1].points[0][1] > boxes[0].points[2][1]
    shared = stacked([made, made._replace(title="Joints")], PAPERS["a4"])
    assert [d.title for d in shared] == ["Wires, Joints"] and shared[0].plain
    far = table("T", (("a", 20.0),), [(str(k),) for k in range(120)], PAPERS["a4"])
    assert (len(far) > 1 and far[0].title == "T, 1 to 47") or far[0].title.startswith("T, 1 to ")
    assert sum(len([m for m in d.marks if m.text.isdigit()]) for d in far) == 120


def test_the_steps_stand_in_the_order_of_the_evenings_with_what_is_done_in_one_go(szron):
    plan, found = szron
    pages = pages_of(plan, found, PAPERS["a4"], ["steps"])
    words = [m.text for p in pages for m in p.body if m.kind == "text"]
    assert words.index("Drilling") < words.index("Washing") < words.index("Soldering") < len(words)
    assert words.count("Washing") < words.count("Deburr and wash"), "one heading for all that is done with it"


def test_what_is_mirrored_shares_its_template_turned_over_and_what_is_not_says_so():
    from gwiazda.core.drawing.sheets.templates import drill_templates

    plan = load(path_of("szron")).plan
    titles = [d.title for d in drill_templates(plan, assess(plan, CAT), PAPERS["a4"])]
    assert "Drill template: Hull, port, and Hull, starboard turned over" in titles
    assert not any(t == "Drill template: Hull, starboard" for t in titles)
    first = next(o for o in plan.openings if o.section == "hull" and o.side == "starboard" and o.shape == "round")
    moved = edits.replace(plan, {first.id: copy_unchecked(first, at=(first.at[0] + 2.0, first.at[1], first.at[2]))})
    drawn = drill_templates(moved, assess(moved, CAT), PAPERS["a4"])
    assert any("not the mirror image of" in m.text for d in drawn for m in d.marks if m.kind == "text")
    bryla = load(path_of("bryla")).plan
    drawn = {d.title: d for d in drill_templates(bryla, assess(bryla, CAT), PAPERS["a4"])}
    both = drawn["Drill template: Engine, port, stern, and Engine, starboard, stern turned over"]
    # Each hole bears the tags of both, and no tag of the kit's list is missing from the templates.
    tags = [m.text for m in both.marks if m.kind == "text" and "/" in m.text]
    assert len(tags) == 7
    from gwiazda.core.assess.assembly.holes import numbered_holes

    printed = {t for d in drawn.values() for m in d.marks if m.kind == "text" for t in m.text.split("/")}
    assert {x.tag for x in numbered_holes(CAT, bryla) if not x.bore.given} <= printed

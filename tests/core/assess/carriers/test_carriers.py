"""What holds lamps: sheets, pieces and solids of every form, proposals, what goes in, how it shades, and the files it goes out in."""

from __future__ import annotations

import io
import math
import xml.etree.ElementTree as ET

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assembly.effort import effort_of
from gwiazda.core.assess.assembly.progress import roll_call
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.carriers.propose import FORMS, best_form, propose
from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.carriers.way_in import way_in
from gwiazda.core.assess.lamp.fit import fit_of
from gwiazda.core.carrier.design import Design, Hole, sheets_of
from gwiazda.core.carrier.pieces import pieces_of, solid_of
from gwiazda.core.drawing.sheets import PAPERS, pages_of
from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.exchange.carriers import carriers_file, pattern_of, pieces_in, solid_in
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.edits import twins
from gwiazda.core.plan.lookup import lamps_on
from gwiazda.core.plan.model import Box, Carrier, Obstacle, Opening, Plan, Section, copy_unchecked

CAT = built_in()


def held(form=None, **fields) -> Plan:
    """The deck with a carrier proposed for its lamps."""
    plan = deck_plan()
    carrier = propose(CAT, plan, "deck1", form)
    return copy_unchecked(plan, carriers=(edits.copy_checked(carrier, **fields),))


def said(plan: Plan) -> dict[str, object]:
    return {f.rule: f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule.startswith("carrier")}


def test_a_carrier_goes_into_a_section_that_is_there_once():
    plan = deck_plan()
    carrier = propose(CAT, plan, "deck1")
    added = edits.add_carrier(plan, carrier)
    assert added.carriers == (carrier,)
    with pytest.raises(PlanError, match="no section “attic”"):
        edits.add_carrier(plan, copy_unchecked(carrier, section="attic"))
    with pytest.raises(PlanError, match=carrier.id):
        edits.add_carrier(added, carrier)


# -- geometry -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("form", FORMS)
@settings(max_examples=12, deadline=None)
@given(
    axis=st.integers(0, 2), sign=st.sampled_from((-1, 1)), divider=st.none() | st.floats(-0.4, 0.4),
    size=st.tuples(*[st.floats(4.0, 60.0)] * 3), thick=st.sampled_from((0.3, 0.5, 1.0)), tabs=st.integers(0, 4),
)  # fmt: skip
def test_a_solid_is_closed_and_holds_what_its_sheets_hold(form, axis, sign, divider, size, thick, tabs):
    import trimesh

    design = Design(form, (1.0, -2.0, 3.0), size, axis, sign, thick, divider, (2.0, 1.0), tabs)
    solid = solid_of(design)
    mesh = trimesh.Trimesh(solid.points, solid.triangles, process=True)
    assert mesh.is_watertight and mesh.is_winding_consistent
    assert mesh.volume == pytest.approx(solid.volume_mm3, rel=1e-6) and mesh.volume > 0
    low, high = solid.points.min(axis=0), solid.points.max(axis=0)
    assert all(a >= b - 1e-4 for a, b in zip(low, design.low, strict=True)), "it keeps within its box"
    assert all(a <= b + s + 1e-4 for a, b, s in zip(high, design.low, size, strict=True))
    most = sum(math.prod(s.box[1]) for s in sheets_of(design))
    assert mesh.volume <= most + 1e-3, "no more of it than of its sheets"


def test_volume_of_a_tray_by_hand():
    design = Design("tray", (0, 0, 0), (40.0, 20.0, 8.0), 2, 1, 0.5, 0.0, (0.0, 0.0))
    floor, ends, sides, divider = 40 * 20 * 0.5, 2 * 20 * 7.5 * 0.5, 2 * 39 * 7.5 * 0.5, 19 * 7.5 * 0.5
    assert solid_of(design).volume_mm3 == pytest.approx(floor + ends + sides + divider, rel=1e-6)


def area(points) -> float:
    return 0.5 * sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, [*points[1:], points[0]], strict=True))


def test_tongues_go_through_their_slots():
    design = Design("sled", (0, 0, 0), (40.0, 20.0, 8.0), 2, 1, 0.5, None, (0.0, 0.0), 3)
    deck, side, other = pieces_of(design)
    assert deck.size == (40.0, 20.0) and side.size == other.size == (40.0, 8.0), (
        "a wall and its tongues reach the outside"
    )
    tongue = min(6.0, 40 / 7)
    assert abs(area(side.outside)) == pytest.approx(40 * 7.5 + 3 * tongue * 0.5, rel=1e-4)
    slots = 40 * 20 - abs(area(deck.outside)) + sum(abs(area(c)) for c in deck.cut)
    # Along the edge a slot is a notch: half its play lies outside.
    assert slots == pytest.approx(6 * (tongue + 0.1) * 0.55, rel=1e-4)
    assert pieces_of(design._replace(tabs=0))[0].cut == ()


def test_holes_are_round_and_where_their_lamps_are():
    design = Design(
        "strip",
        (0, 0, 0),
        (40.0, 20.0, 0.5),
        2,
        1,
        0.5,
        None,
        (0, 0),
        0,
        (Hole(10, 8, 3, 3, True), Hole(30, 12, 5, 2, False)),
    )
    (sheet,) = pieces_of(design)
    round_one, square = sorted(sheet.cut, key=len, reverse=True)
    assert abs(area(square)) == pytest.approx(10.0)
    assert abs(area(round_one)) == pytest.approx(math.pi * 1.5**2, rel=0.01)
    assert all(math.dist(p, (10, 8)) == pytest.approx(1.5, abs=1e-3) for p in round_one)
    edge = design._replace(holes=(Hole(39.5, 8, 3, 3, True),))
    assert pieces_of(edge)[0].cut == (), "a hole that runs out of the sheet is none"


def test_a_sheet_thicker_than_the_carrier_is_refused_with_what_fits():
    with pytest.raises(ValueError, match=r"up to 0\.4 mm"):
        sheets_of(Design("strip", (0, 0, 0), (40.0, 20.0, 0.4), 2, 1, 0.5))
    with pytest.raises(ValueError, match="no carrier has the form"):
        sheets_of(Design("raft", (0, 0, 0), (40.0, 20.0, 4.0), 2, 1, 0.5))


def test_a_profile_that_leaves_nothing_is_refused():
    design = Design("strip", (0, 0, 0), (40.0, 20.0, 0.5), 2, 1, 0.5, profile=((100, 0), (120, 0), (120, 9)))
    with pytest.raises(ValueError, match="profile leaves nothing"):
        pieces_of(design)
    half = design._replace(profile=((-1, -1), (20, -1), (20, 30), (-1, 30)))
    assert pieces_of(half)[0].size == (20.0, 20.0), "it is cut to the profile"


# -- proposed -----------------------------------------------------------------------------------------------


def test_the_form_follows_from_how_the_lamps_are_placed():
    plan = deck_plan()
    assert best_form(CAT, plan.sections[0], plan.lamps) == "strip", "chips by the roof"
    raised = edits.set_axis(plan, [p.id for p in plan.lamps], 2, 9.0)
    assert best_form(CAT, plan.sections[0], raised.lamps) == "sled"
    assert best_form(CAT, plan.sections[0], raised.lamps[:1]) == "riser"
    along = edits.set_fields(plan, [p.id for p in plan.lamps], aim=(1.0, 0.0, 0.0))
    assert best_form(CAT, plan.sections[0], along.lamps) == "firewall"
    two = edits.set_fields(plan, [p.id for p in plan.lamps[3:]], part="chip-1206-red")
    assert best_form(CAT, plan.sections[0], two.lamps) == "tray"
    tray = propose(CAT, two, "deck1")
    wall = tray.at[0] + tray.divider * tray.size[0]
    assert two.lamps[2].at[0] < wall < two.lamps[3].at[0], "the wall stands between the two colours"
    mixed = edits.set_fields(plan, [plan.lamps[1].id, plan.lamps[3].id], part="chip-1206-red")
    assert best_form(CAT, plan.sections[0], mixed.lamps) != "tray", "no one wall parts what lies among each other"


@pytest.mark.parametrize("form", FORMS)
def test_every_form_holds_all_lamps_goes_in_and_stands_clear(form):
    plan = held(form)
    (carrier,) = plan.carriers
    assert len(lamps_on(carrier, plan.lamps)) == 5
    assert not said(plan), [f.sentence for f in said(plan).values()]
    holes = pieces_in(CAT, plan, carrier)[0].holes
    assert len(holes) == 5


def test_no_lamps_or_no_room_is_said():
    with pytest.raises(PlanError, match="no lamp in it"):
        propose(CAT, deck_plan(lamps=0), "deck1")
    thin = deck_plan()
    section = copy_unchecked(thin.sections[0], box=Box(at=(0, -22, 17.5), size=(165, 44, 0.8)))
    with pytest.raises(PlanError, match=r"only 0\.8 mm across"):
        propose(CAT, copy_unchecked(thin, sections=(section,)), "deck1")


# -- in the plan --------------------------------------------------------------------------------------------


def test_it_shades_what_lies_behind_it_and_not_its_own_lamps():
    plan = deck_plan()
    box = held("light box", size=(160.0, 8.0, 18.0), at=(82.5, 0.0, 9.5))
    open_light, strip, walled = (
        (s := assess(x, CAT).sections["deck1"]).mean_cd_m2 / s.flux_lm for x in (plan, held("strip"), box)
    )
    assert strip == pytest.approx(open_light, rel=0.1), "under the roof a white strip changes little"
    assert walled < 0.2 * open_light, "within walls it is dark outside of them"
    assert furnished(CAT, plan) is plan
    seen = furnished(CAT, box)
    assert len(seen.sections[0].obstacles) == 5 and box.sections[0].obstacles == ()
    assert (
        furnished(CAT, edits.set_fields(box, [box.lamps[0].id], at=(21.0, 0.5, 18.0))).sections[0] is seen.sections[0]
    )


def test_a_lamp_on_a_sheet_needs_no_room_for_leads_before_it():
    plan = held("riser", size=(130.0, 6.0, 8.0), at=(80.0, 0.0, 15.0))
    lamp = copy_unchecked(plan.lamps[0], at=(20.0, 0.0, 10.45))
    bare = fit_of(CAT, plan.sections[0], lamp)
    seen = fit_of(CAT, furnished(CAT, copy_unchecked(plan, lamps=(lamp,))).sections[0], lamp)
    assert seen.needed_mm == pytest.approx(bare.needed_mm - 0.6) and seen.gap_mm < bare.gap_mm


def test_a_bent_head_needs_less_room():
    plan = edits.set_fields(deck_plan(), ["deck1.lamp.01"], part="round-3-warm-white")
    straight, bent = (
        fit_of(CAT, plan.sections[0], copy_unchecked(plan.lamps[0], bend_deg=b)).needed_mm for b in (0.0, 90.0)
    )
    assert straight - bent == pytest.approx(2.5 - 1.2), "leads folded flat take 1.2 mm and not 2.5"


def test_it_counts_in_steps_hours_and_the_roll_call():
    plan = held()
    steps = {s.key: s for s in steps_of(CAT, plan)}
    step = steps["deck1:carrier"]
    assert step.many == 1 and "deck1:carrier" in steps["deck1:lamps"].needs
    assert effort_of(plan, CAT)[0].hours > effort_of(copy_unchecked(plan, carriers=()), CAT)[0].hours
    assert any("holds the lamps" in line for line in roll_call(plan, "deck1"))
    minutes = [
        next(
            s.minutes
            for s in steps_of(
                CAT, copy_unchecked(held("tray"), carriers=(copy_unchecked(held("tray").carriers[0], own=own),))
            )
            if s.kind == "carrier"
        )
        for own in (True, False)
    ]
    assert minutes == [5 * 5, 5], "a bracket of the kit is drilled, not cut"


def test_it_moves_with_its_lamps_is_copied_mirrored_and_goes_with_its_section():
    plan = held()
    moved = edits.move(plan, [plan.carriers[0].id], (3.0, 1.0, 0.0))
    assert [p.at[0] for p in moved.lamps] == [p.at[0] + 3 for p in plan.lamps]
    whole = edits.move(plan, ["deck1"], (5.0, 0.0, 0.0))
    assert whole.carriers[0].at[0] == plan.carriers[0].at[0] + 5
    assert [p.at[0] for p in whole.lamps] == [p.at[0] + 5 for p in plan.lamps], "taken along once, not twice"
    doubled, new = edits.duplicate(plan, ["deck1"], (0.0, 60.0, 0.0))
    assert len(doubled.carriers) == 2 and doubled.carriers[1].section in new
    assert edits.delete(plan, ["deck1"]).carriers == ()
    tray = copy_unchecked(
        plan, carriers=(edits.copy_checked(plan.carriers[0], facing="bow", enters="bow", divider=0.2),)
    )
    turned = twins.turn_round(tray, ["deck1"], 0).carriers[0]
    assert turned.facing == "stern" and turned.enters == "stern"
    again = storage.plan_from_json(storage.plan_to_json(tray).encode(), "x")
    assert again == tray


def test_a_carrier_larger_than_its_opening_is_said_with_what_would_fit():
    hatch = Opening(id="hatch", section="deck1", width_mm=20.0, height_mm=8.0, at=(160, 0, 19), side="top")
    plan = edits.add_openings(held(), (hatch,))
    plan = edits.set_fields(plan, [plan.carriers[0].id], through="hatch")
    finding = said(plan)["carrier-too-large"]
    assert "19.4 × 7.4 mm would go in" in finding.sentence and finding.severity == "stop"
    labels = {f.label: f for f in finding.fixes}
    by_face = next(f for label, f in labels.items() if label.startswith("Let it in by"))
    assert "carrier-too-large" not in said(by_face.applied(plan))
    smaller = next(f for label, f in labels.items() if label.startswith("Make it"))
    assert "carrier-too-large" not in said(smaller.applied(plan))
    way = way_in(plan.sections[0], plan.carriers[0], hatch)
    assert way.mouth == (20.0, 8.0) and not way.fits
    assert edits.delete(plan, ["hatch"]).carriers[0].through == "", "the opening gone, it goes in by a face again"


def test_what_stands_on_its_way_or_where_it_stands_is_found_and_notched():
    wall = Obstacle(id="deck1.rib", kind="rib", name="Rib", box=Box(at=(80, -22, 18.6), size=(2, 44, 0.4)))
    plan = held("strip")
    plan = edits.set_fields(plan, ["deck1"], obstacles=(wall,))
    meets = said(plan)["carrier-meets"]
    assert not {"carrier-meets", "carrier-blocked"} & set(said(meets.fixes[0].applied(plan)))
    outside = edits.move(held("strip"), [held("strip").carriers[0].id], (0.0, 0.0, 4.0))
    into = said(outside)["carrier-in-wall"]
    assert "carrier-in-wall" not in said(into.fixes[0].applied(outside))
    empty = said(edits.delete(held(), [p.id for p in held().lamps]))["carrier-empty"]
    assert "holds no lamp" in empty.sentence
    thin = held("strip", sheet="card-10")
    assert "up to 0.5 mm" in said(thin)["carrier-too-thin"].sentence
    assert "carrier-too-thin" not in said(said(thin)["carrier-too-thin"].fixes[0].applied(thin))
    unknown = [
        f for f in evaluate_rules(held(sheet="slate"), assess(held(sheet="slate"), CAT)) if f.rule == "unknown-part"
    ]
    assert unknown and "slate" in unknown[0].sentence


# -- out and read back --------------------------------------------------------------------------------------


def test_the_pattern_out_as_dxf_and_read_back():
    import ezdxf

    plan = held("tray", divider=0.1)
    assessment = assess(plan, CAT)
    data = carriers_file(plan, assessment, "tray.dxf")
    read = ezdxf.read(io.StringIO(data.decode()))
    assert read.units == ezdxf.units.MM and not read.audit().errors
    rings = [[(x, y) for x, y, *_ in line] for line in read.modelspace().query('LWPOLYLINE[layer=="CUT"]')]
    wanted = [(p, ring) for p in pattern_of(CAT, plan, plan.carriers) for ring in (p.piece.outside, *p.piece.cut)]
    assert len(rings) == len(wanted)
    for ring, (place, points) in zip(rings, wanted, strict=True):
        assert len(ring) == len(points)
        assert all(math.dist(a, (place.x + x, place.y + y)) < 1e-9 for a, (x, y) in zip(ring, points, strict=True))
    assert len(read.modelspace().query("TEXT")) == 6, "a name for each piece"


def test_the_pattern_out_as_svg_at_true_size():
    plan = held("sled", size=(130.0, 6.0, 8.0), at=(80.0, 0.0, 15.0))
    root = ET.fromstring(carriers_file(plan, assess(plan, CAT), "a.svg"))
    wide = float(root.get("width").removesuffix("mm"))
    assert root.get("viewBox").split()[2] == f"{wide:.2f}", "1 unit is 1 mm"
    paths = root.findall(".//{http://www.w3.org/2000/svg}path")
    assert len(paths) == 3
    numbers = [float(x) for x in paths[0].get("d").replace("M", " ").replace("L", " ").replace("Z", " ").split()]
    assert max(numbers[::2]) - min(numbers[::2]) == pytest.approx(130.0), "the deck's length, from its outline"


def test_the_solid_out_as_stl_and_read_back():
    import trimesh

    plan = held("tray", divider=0.1)
    plan = copy_unchecked(
        plan, carriers=(*plan.carriers, copy_unchecked(plan.carriers[0], id="other", form="strip", divider=None))
    )
    mesh = trimesh.load(io.BytesIO(carriers_file(plan, assess(plan, CAT), "a.stl")), file_type="stl")
    assert mesh.is_watertight and mesh.body_count == 2
    volumes = sum(solid_in(CAT, plan, c).volume_mm3 for c in plan.carriers)
    assert mesh.volume == pytest.approx(volumes, rel=1e-4)
    assert mesh.bounds[0] == pytest.approx([0, 0, 0], abs=1e-4), "it lies on the bed"


def test_the_sheet_of_patterns_and_what_cant_be_made():
    plan = held("tray")
    (page,) = pages_of(plan, assess(plan, CAT), PAPERS["a4"], ["carriers"])
    deck = max((m for m in page.body if m.kind == "outline"), key=lambda m: abs(area(m.points)))
    assert max(x for x, _ in deck.points) - min(x for x, _ in deck.points) == pytest.approx(plan.carriers[0].size[0])
    broken = held("strip", sheet="card-10")
    words = [m.text for p in pages_of(broken, assess(broken, CAT), PAPERS["a4"], ["carriers"]) for m in p.body]
    assert any("thicker than the carrier" in w for w in words)
    with pytest.raises(PlanError, match="another sheet"):
        carriers_file(broken, assess(broken, CAT), "a.stl")


def test_other_names_and_plans_without_carriers_are_said():
    plan = held()
    with pytest.raises(PlanError, match=r"\.svg"):
        carriers_file(plan, assess(plan, CAT), "tray.exe")
    with pytest.raises(PlanError, match="no carrier"):
        carriers_file(deck_plan(), assess(deck_plan(), CAT), "a.svg")


def test_bad_carriers_are_refused_by_name():
    plan = held()
    with pytest.raises(PlanError, match="size"):
        edits.set_fields(plan, [plan.carriers[0].id], size=(1.0, 0.0, 2.0))
    with pytest.raises(PlanError, match="form"):
        edits.set_fields(plan, [plan.carriers[0].id], form="raft")
    lost = copy_unchecked(plan, carriers=(copy_unchecked(plan.carriers[0], section="nowhere"),))
    with pytest.raises(GwiazdaError, match="nowhere"):
        storage.plan_from_json(storage.plan_to_json(lost).encode(), "x")
    assert isinstance(Section(id="a", name="A", box=Box(at=(0, 0, 0), size=(1, 1, 1))), Section)
    assert Carrier(id="c", section="a", at=(0, 0, 0), size=(2, 2, 2)).low == (-1, -1, -1)

"""Parts put inside, channels filed into walls, what shows through clear panes, heads bent on their leads, a fibre instead of a lamp on the wall."""

from __future__ import annotations

import math

import pytest

from decks import deck_plan
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.optics.leaks import channel_density
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Layer, Obstacle, Passage, Plan, copy_unchecked

CAT = built_in()


def said(plan: Plan) -> dict[str, object]:
    out: dict[str, object] = {}
    for f in evaluate_rules(plan, assess(plan, CAT)):
        out.setdefault(f.rule, f)
    return out


def with_body(at=(60.0, -10.0, 0.0), size=(20.0, 12.0, 20.2), thin=2.0, kind="engine", **more) -> Plan:
    plan = deck_plan(windows=2, lamps=1)
    body = Obstacle(id="deck1.body", kind=kind, name="Bought engine", box=Box(at=at, size=size), thin_mm=thin)
    return edits.set_fields(plan, ["deck1"], obstacles=(body, *more.get("beside", ())))


# -- bodies -------------------------------------------------------------------------------------------------


def test_a_part_that_stands_too_high_is_thinned_or_would_break_through():
    finding = said(with_body())["body-too-large"]
    assert finding.number == pytest.approx(1.2) and "would leave 0.8" in finding.sentence
    labels = {f.label: f for f in finding.fixes}
    assert set(labels) == {"Thin it by 1.2 mm"}, "taller than the room: it can't be moved in"
    thinned = labels["Thin it by 1.2 mm"].applied(with_body())
    assert "body-too-large" not in said(thinned)
    assert thinned.sections[0].obstacles[0].thin_mm == pytest.approx(0.8) and thinned.sections[0].obstacles[0].box.size[
        2
    ] == pytest.approx(19)
    assert "break through, 0.7 mm short" in said(with_body(thin=0.5))["body-too-large"].sentence
    low = said(with_body(at=(60.0, -10.0, 4.0), size=(20.0, 12.0, 18.0)))["body-too-large"]
    assert low.fixes[0].label == "Move it in"
    step = {s.kind: s for s in steps_of(CAT, with_body())}["obstacles"]
    assert step.minutes == pytest.approx(60.0), "an hour to thin it"


@pytest.mark.parametrize("name", ["deck1.aa", "deck1.zz"])
def test_a_part_that_meets_a_bulkhead_is_found_whatever_their_names(name):
    wall = Obstacle(id=name, kind="bulkhead", name="Frame 4", box=Box(at=(70, -22, 0), size=(1, 44, 10)))
    plan = with_body(size=(20.0, 12.0, 8.0), beside=(wall,))
    finding = said(plan)["bodies-meet"]
    assert finding.number == pytest.approx(1.0) and "Frame 4" in finding.sentence
    assert "bodies-meet" not in said(finding.fixes[0].applied(plan))


def test_two_bodies_are_said_once():
    other = Obstacle(id="deck1.seat", kind="seat", box=Box(at=(78, -8, 0), size=(6, 6, 8)))
    plan = with_body(size=(20.0, 12.0, 8.0), beside=(other,))
    found = [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == "bodies-meet"]
    assert len(found) == 1 and found[0].number == pytest.approx(2.0) and not found[0].fixes


# -- channels -----------------------------------------------------------------------------------------------


def channelled(take: float, cover: str = "") -> Plan:
    plan = deck_plan(windows=2, lamps=5)
    section = copy_unchecked(plan.sections[0], inside=(Layer(coat="flat-black", coats=3),), wall_mm=2.0)
    way = Passage(
        id="groove",
        section="deck1",
        at=(80.0, 22.0, 10.0),
        width_mm=1.0,
        height_mm=1.0,
        length_mm=40.0,
        make="channel",
        take_mm=take,
        wall_mm=2.0,
        cover=cover,
    )
    return copy_unchecked(
        plan, sections=(section,), passages=(way,), kit=copy_unchecked(plan.kit, material="light-grey")
    )


def test_a_channel_leaks_through_what_it_leaves_of_the_wall():
    """By hand: 1.6 mm off 2 leaves 0.4 mm of light grey at 0.55 a mm, and neither black nor lining."""
    plan = channelled(1.6)
    way = plan.passages[0]
    assert channel_density(CAT, plan.sections[0], "light-grey", way) == pytest.approx(0.22)
    foil = copy_unchecked(way, cover="foil-tape")
    assert channel_density(CAT, plan.sections[0], "light-grey", foil) == pytest.approx(6.22)
    assert channel_density(CAT, plan.sections[0], "light-grey", copy_unchecked(way, take_mm=2.5)) == pytest.approx(
        0.0
    ), "broken through"
    leak = next(x for x in assess(plan, CAT).leaks if x.kind == "channel")
    assert leak.section == "deck1" and leak.face == "port" and leak.times > 1
    deeper = next(x for x in assess(channelled(1.9), CAT).leaks if x.kind == "channel")
    assert deeper.luminance_cd_m2 / leak.luminance_cd_m2 == pytest.approx(10 ** (0.3 * 0.55))


def test_a_leaking_channel_is_covered_or_filed_less_deep():
    plan = channelled(1.9)
    finding = said(plan)["leak-channel"]
    assert "along the groove Deck 1 to the outside" in finding.sentence
    foil, _, shallow = finding.fixes
    assert "leak-channel" not in said(foil.applied(plan))
    assert shallow.applied(plan).passages[0].take_mm == pytest.approx(0.95)
    steps = {s.kind for s in steps_of(CAT, foil.applied(plan))}
    assert "channels" in steps and "channels" not in {s.kind for s in steps_of(CAT, plan)}
    drilled = copy_unchecked(plan, passages=(copy_unchecked(plan.passages[0], make="drill"),))
    assert not [x for x in assess(drilled, CAT).leaks if x.kind == "channel"]


# -- in view ------------------------------------------------------------------------------------------------


def clear(**more) -> Plan:
    plan = deck_plan(windows=2, lamps=1)
    return edits.set_fields(plan, ["deck1"], glazing="clear", **more)


def test_structure_behind_clear_panes_is_found_and_veiled():
    x = clear().openings[0].at[0]
    pin = Obstacle(id="deck1.pin", kind="pin", name="Locating pin", box=Box(at=(x - 1, 10, 6), size=(2, 2, 8)))
    plan = clear(obstacles=(pin,))
    finding = said(plan)["structure-seen"]
    assert "Locating pin" in finding.sentence and finding.number == 1.0
    for fix in finding.fixes:
        assert "structure-seen" not in said(fix.applied(plan)), fix.label
    figure = clear(obstacles=(copy_unchecked(pin, kind="figure"),))
    assert "structure-seen" not in said(figure), "a figure is meant to be looked at"
    before = Obstacle(id="deck1.seat", kind="seat", box=Box(at=(x - 4, 14, 0), size=(8, 3, 18)))
    assert "structure-seen" not in said(clear(obstacles=(pin, before))), "what stands before it hides it"
    assert "structure-seen" not in said(edits.set_fields(plan, ["deck1"], glazing="mist-2"))
    assert "structure-seen" not in said(clear(obstacles=(copy_unchecked(pin, action="cut"),)))


def test_a_lamps_body_in_view_is_found_lit_or_not():
    plan = clear()
    o = plan.openings[0]
    plan = edits.set_fields(plan, [plan.lamps[0].id], at=(o.at[0], 5.0, o.at[2]), aim=(0.0, 0.0, -1.0))
    finding = said(plan)["structure-seen"]
    assert "Deck 1, lamp 1 behind Deck 1, port" in finding.sentence


def test_a_wire_behind_something_is_not_in_view():
    from gwiazda.core.assess.looms.crossing import _Behind, _over

    plan = clear()
    o, s = plan.openings[0], plan.sections[0]
    section = _Behind(s.box.size, s.obstacles, s.glazing, s.soften, plan.openings)
    import numpy as np

    way = np.array([(o.at[0], 0.0, 0.0), (o.at[0], 0.0, 19.0)])
    assert _over(CAT, section, o, way, 0.3, "w").seen
    card = Obstacle(id="deck1.card", box=Box(at=(o.at[0] - 5, 8.0, 0.0), size=(10, 0.5, 19)))
    assert _over(CAT, section._replace(obstacles=(card,)), o, way, 0.3, "w") is None
    behind = Obstacle(id="deck1.card", box=Box(at=(o.at[0] - 5, -8.0, 0.0), size=(10, 0.5, 19)))
    assert _over(CAT, section._replace(obstacles=(behind,)), o, way, 0.3, "w").seen


# -- bent heads and fibres ----------------------------------------------------------------------------------


def test_a_lamp_too_thick_by_its_leads_is_bent():
    plan = deck_plan(windows=2, lamps=1)
    box = Box(at=(0, -22, 0), size=(165, 44, 7.2))
    plan = edits.set_fields(plan, ["deck1"], box=box)
    plan = edits.set_fields(plan, ["deck1.lamp.01"], part="flat-3-warm-white", at=(20.0, 0.0, 4.0))
    finding = said(plan)["does-not-fit"]
    bent = next(f for f in finding.fixes if f.label.startswith("Bend its head")).applied(plan)
    assert bent.lamps[0].bend_deg == 90.0
    after = said(bent).get("does-not-fit")
    assert after is None or after.number - finding.number == pytest.approx(1.3)
    flat = edits.set_fields(plan, ["deck1"], box=Box(at=(0, -22, 3.5), size=(165, 44, 1.2)))
    chip = said(edits.set_fields(flat, ["deck1.lamp.01"], part="chip-1206-warm-white"))["does-not-fit"]
    assert not [f for f in chip.fixes if "Bend" in f.label], "a chip has no leads to bend"


def shell() -> Plan:
    """A clear shell with a red lamp glued to the wall among white ones."""
    plan = deck_plan(windows=5, lamps=2)
    plan = edits.set_fields(
        plan, ["deck1"], material="clear", school="mask", lining="bare", glazing="frosted-1", outside=(Layer(coat="flat-black", coats=4),)
    )  # fmt: skip
    o = plan.openings[2]
    return edits.set_fields(
        plan, ["deck1.lamp.02"], part="chip-0603-red", at=(o.at[0], 21.8, o.at[2]), aim=(0.0, 1.0, 0.0)
    )


def test_a_fibre_instead_of_a_coloured_lamp_on_the_clear_wall():
    plan = shell()
    before = assess(plan, CAT)
    red = before.lamps["deck1.lamp.02"].rgb
    finding = said(plan)["lamp-on-clear-wall"]
    fibre = next(f for f in finding.fixes if "fibre" in f.label)
    mended = fibre.applied(plan)
    assert "lamp-on-clear-wall" not in said(mended) and finding.measure(assess(mended, CAT)) >= 0
    (dot,) = mended.dots
    after = assess(mended, CAT)
    assert mended.lamps[1].mount == "fibre" and dot.lamp == "deck1.lamp.02" and after.tips[dot.id].cd > 0
    assert dot.at[1] == pytest.approx(22 + 1.2), "its tip in the outer skin"
    from gwiazda.core.assess.night.scene import scene_of

    def tinted(assessment, p) -> float:
        return sum(float(c.pane_cd_m2.sum()) for c in scene_of(p, assessment, "port", leaks=False) if c.rgb == red)

    assert tinted(before, plan) > 0 and tinted(after, mended) == 0.0, "no pane is tinted any more"
    assert math.isfinite(after.tips[dot.id].cd_m2)


def test_a_wall_thicker_than_its_room_is_said_with_what_would_be_usual():
    plan = edits.set_fields(deck_plan(windows=2, lamps=1), ["deck1"], wall_mm=25.0)
    finding = said(plan)["wall-too-thick"]
    assert finding.severity == "stop" and "19 mm across" in finding.sentence
    mended = finding.fixes[0].applied(plan)
    assert mended.sections[0].wall_mm == 1.2 and "wall-too-thick" not in said(mended)

"""Nothing lost: edits pass the gate, and any plan on the way saves, loads equal and assesses without an exception."""

from __future__ import annotations

import json
import math
import re
import zipfile
from pathlib import Path

import msgspec
import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.edits import occupancy, patterns, skins, twins, views
from gwiazda.core.plan.gate import check_item, validate_edit
from gwiazda.core.plan.lookup import find, lamp_of, whole_light
from gwiazda.core.plan.migrations import KINDS_OF_PURPOSE
from gwiazda.core.plan.model import (
    PLAN_VERSION,
    Box,
    Lamp,
    Light,
    Obstacle,
    Opening,
    Plan,
    Section,
    Wanted,
    copy_unchecked,
    lamps_in,
)
from gwiazda.core.plan.refs import nested

DATA = Path(__file__).parent / "data"
QUICK = 60  # cells: the state machine is about exceptions and not about light


def reopened(plan: Plan) -> Plan:
    return storage.plan_from_json(storage.plan_to_json(plan).encode(), "plan.json")


# -- copies and deletes: what refers to what ----------------------------------------------------------------


def two_rooms() -> Plan:
    box = {"fore": (0.0, -10.0, 0.0), "aft": (-41.0, -10.0, 0.0)}
    plan = Plan(sections=tuple(Section(id=k, name=k, box=Box(at=at, size=(40.0, 20.0, 20.0))) for k, at in box.items()))
    plan = edits.add_openings(
        plan, [Opening(id="fore.door", section="fore", side="stern", at=(0.0, 0.0, 8.0), into="aft")]
    )
    plan = skins.add_seam(plan, "fore", "top")
    plan = skins.add_patch(plan, "fore", "top", (1.0, 1.0), (5.0, 5.0), "putty")
    rib = Obstacle(id="fore.rib.01", kind="rib", box=Box(at=(5.0, -10.0, 0.0), size=(1.0, 20.0, 3.0)))
    return edits.set_fields(plan, ["fore"], obstacles=(rib,))


def test_a_copied_hole_leads_to_the_copy_or_outside():
    plan = two_rooms()
    both, new = edits.duplicate(plan, ["fore", "aft"], (0.0, 0.0, 50.0))
    copy = next(o for o in both.openings if o.id not in {x.id for x in plan.openings})
    assert copy.into in new and copy.section in new and copy.into != "aft"
    alone, _ = edits.duplicate(plan, ["fore"], (0.0, 0.0, 50.0))
    assert next(o for o in alone.openings if o.id != "fore.door").into == ""
    validate_edit(plan, both)
    validate_edit(plan, alone)


def test_seams_patches_and_obstacles_of_a_copy_have_ids_of_their_own():
    plan, _ = edits.duplicate(two_rooms(), ["fore"], (0.0, 0.0, 50.0))
    ids = [n.id for s in plan.sections for n in nested(s)]
    assert len(ids) == len(set(ids)) == 6
    again, _ = edits.duplicate(plan, ["fore"], (0.0, 0.0, 100.0))
    validate_edit(plan, again)


def test_an_offer_reports_on_its_own_section():
    """The seam of a copy, and not its original's, is what an offer for it settles."""
    plan = skins.add_seam(skins.add_coats(deck_plan(), "deck1", "inside", "flat-black", 3), "deck1", "top", 0.4)
    plan, (copy, *_) = edits.duplicate(plan, ["deck1"], (0.0, 0.0, 60.0))
    leaks = [f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "leak-seam"]
    assert {f.subject for f in leaks} == {"deck1", copy}
    mine = next(f for f in leaks if f.subject == copy)
    after = mine.fixes[0].applied(plan)
    left = [f.subject for f in evaluate_rules(after, assess(after, built_in())) if f.rule == "leak-seam"]
    assert left == ["deck1"]


def test_names_and_places_out_of_range_do_not_pass(deck):
    for bad in (
        edits.move(deck, ["deck1"], (2e5, 0.0, 0.0)),
        copy_unchecked(deck, sections=(copy_unchecked(deck.sections[0], name="n" * 101),)),
        copy_unchecked(deck, lamps=(copy_unchecked(deck.lamps[0], at=(math.nan, 0.0, 0.0)), *deck.lamps[1:])),
        copy_unchecked(deck, views=()),
        copy_unchecked(deck, lamps=(*deck.lamps, copy_unchecked(deck.lamps[0], id="deck1"))),
    ):
        with pytest.raises(PlanError):
            validate_edit(deck, bad)
    named = edits.set_fields(deck, ["deck1"], name="n" * 100)
    for _ in range(3):
        named, _ = edits.duplicate(named, [named.sections[-1].id], (0.0, 0.0, 30.0))
    assert validate_edit(deck, named) is named and max(len(s.name) for s in named.sections) <= 100


def test_deleting_follows_what_refers_to_what():
    plan, light = edits.add_light(two_rooms(), "cabin-row", "Cabins")
    plan = edits.assign_light(plan, ["fore", "fore.door"], light)
    without = edits.delete(plan, [light])
    assert not without.lights and find(without, "fore").light == "" and find(without, "fore.door") is None
    assert edits.delete(plan, ["aft"]).openings == ()
    strung = edits.wire_side_by_side(deck_plan(), ["deck1.lamp.01", "deck1.lamp.02"])
    left = edits.delete(strung, ["deck1.lamp.01"])
    assert [x.lamp for x in lamps_in(left.feeds[0].items[0])] == ["deck1.lamp.02"]
    assert edits.delete(left, ["deck1.lamp.02"]).feeds[0].items == ()


# -- defaults and versions ----------------------------------------------------------------------------------


def test_defaults_are_frozen():
    """Defaults aren't written into files: another default silently changes old plans, and costs a version."""
    found = {
        kind.__name__: {
            f.name: msgspec.to_builtins(f.default)
            for f in msgspec.structs.fields(kind)
            if f.default is not msgspec.NODEFAULT
        }
        for kind in sorted(all_models(), key=lambda k: k.__name__)
    }
    path = DATA / "defaults-version-13.json"
    assert json.loads(json.dumps(found)) == json.loads(path.read_text()), "a new default costs a version of the plan"


def all_models() -> set[type]:
    from gwiazda.core.plan.model import Model

    seen, todo = set(), [Model]
    while todo:
        for kind in todo.pop().__subclasses__():
            if kind not in seen:
                seen.add(kind)
                todo.append(kind)
    return seen


def test_a_plan_of_version_2_keeps_all_it_had():
    """A real file of version 2: its supply, its strings and all the rest come out in the new shape."""
    raw = json.loads(zipfile.ZipFile(DATA / "szron-version-2.gwiazda").read("plan.json"))
    plan = storage.load(DATA / "szron-version-2.gwiazda").plan
    assert raw["version"] == 2 and plan.version == PLAN_VERSION
    for name in ("sections", "openings", "lamps", "views"):
        assert [x["id"] for x in raw[name]] == [x.id for x in getattr(plan, name)]
    assert (
        msgspec.to_builtins(plan.supply)["part"] == raw["supply"]["part"]
        and plan.supply.in_series == raw["supply"]["in_series"]
    )
    strings = [[x.lamp for x in lamps_in(item)] for item in plan.feeds[0].items]
    assert strings == [s["lamps"] for s in raw["strings"]]
    assert reopened(plan) == plan
    assessment = assess(plan, built_in())
    assert assessment.supply.draw_a > 0.01 and all(i in assessment.lamps for i in (p.id for p in plan.lamps))


def test_ids_doubled_by_old_copies_are_told_apart():
    seam = {"id": "a.seam.01", "face": "top"}
    box = {"at": [0, 0, 0], "size": [9, 9, 9]}
    data = {"version": 2, "sections": [{"id": i, "name": i, "box": box, "seams": [seam]} for i in ("a", "b")]}
    plan = storage.plan_from_json(json.dumps(data).encode(), "x")
    assert plan.sections[0].seams[0].id == "a.seam.01" != plan.sections[1].seams[0].id


# -- assess is a function of its arguments ------------------------------------------------------------------


def test_after_other_plans_an_assessment_equals_a_fresh_one():
    import subprocess
    import sys

    plan = skins.add_seam(deck_plan(supply="block-9v"), "deck1", "top")
    for other in (
        edits.move(plan, ["deck1.lamp.03"], (5.0, 2.0, 0.0)),
        edits.set_fields(plan, ["deck1"], lining="silver"),
        edits.set_fields(plan, ["deck1.lamp.01"], part="strip-12v-60-warm-white"),
        deck_plan(windows=3, lamps=2),
    ):
        assess(other, built_in())
        assess(other, built_in(), QUICK)
    now = assess(plan, built_in())
    script = (
        "import sys; sys.path.insert(0, sys.argv[1])\n"
        "from decks import deck_plan\nfrom gwiazda.core.plan.edits import skins\n"
        "from gwiazda.core.parts.catalogue import built_in\nfrom gwiazda.core.assess.assessment import assess\n"
        "f = assess(skins.add_seam(deck_plan(supply='block-9v'), 'deck1', 'top'), built_in())\n"
        "print(repr((f.lamps, f.branches, f.sections, f.openings, f.leaks, f.meters)))"
    )
    fresh = subprocess.run(
        [sys.executable, "-c", script, str(Path(__file__).parents[2])], capture_output=True, text=True, check=True
    ).stdout.strip()
    words, numbers = split_numbers(repr((now.lamps, now.branches, now.sections, now.openings, now.leaks, now.meters)))
    fresh_words, fresh_numbers = split_numbers(fresh)
    assert words == fresh_words and len(numbers) > 200
    # Light is summed over as many lamps at once as aren't kept: the last digits may differ, a ten-millionth at most.
    assert numbers == pytest.approx(fresh_numbers, rel=5e-7, abs=1e-12)


def split_numbers(text: str) -> tuple[str, list[float]]:
    """A text without its numbers, and these."""
    number = re.compile(r"(?<![\w#.])-?\d+(?:\.\d+)?(?:e[+-]?\d+)?(?![\w.])")
    return number.sub("#", text), [float(n) for n in number.findall(text)]


# -- random edits -------------------------------------------------------------------------------------------

SMALL = st.floats(-30.0, 30.0)
PARTS = st.sampled_from(
    [
        "chip-0603-warm-white",
        "round-3-red",
        "strip-12v-60-warm-white",
        "flash-3-red",
        "wide-round-3-red",
        "no-such-part",
    ]
)


class AnyEdits(RuleBasedStateMachine):
    """A modeller with ideas: each edit passes the gate or is refused with a sentence."""

    @initialize()
    def start(self) -> None:
        self.plan = deck_plan(windows=4, lamps=2)

    def do(self, change) -> None:
        before = self.plan
        try:
            self.plan = validate_edit(before, change(before))
        except PlanError as error:
            assert str(error).endswith(".")

    def ids(self) -> list[str]:
        return [x.id for g in (self.plan.sections, self.plan.openings, self.plan.lamps) for x in g]

    def pick(self, data, among=None) -> str | None:
        among = self.ids() if among is None else among
        return data.draw(st.sampled_from(among)) if among else None

    @rule(x=SMALL, z=SMALL, part=PARTS)
    def add_a_lamp(self, x, z, part):
        self.do(lambda p: edits.add_lamp(p, Lamp(id=edits.fresh_ids(p, "lamp")[0], part=part, at=(x, 0.0, z))))

    @rule(data=st.data(), by=st.tuples(SMALL, SMALL, SMALL), far=st.sampled_from([1.0, 1.0, 1e4]))
    def move(self, data, by, far):
        if item := self.pick(data):
            self.do(lambda p: edits.move(p, [item], tuple(far * x for x in by)))

    @rule(data=st.data())
    def copy(self, data):
        if (item := self.pick(data)) and len(self.ids()) < 60:
            self.do(lambda p: edits.duplicate(p, [item], (0.0, 0.0, 25.0))[0])

    @rule(data=st.data())
    def delete(self, data):
        if item := self.pick(data):
            self.do(lambda p: edits.delete(p, [item]))

    @rule(data=st.data())
    def mirror(self, data):
        if section := self.pick(data, [s.id for s in self.plan.sections]):
            self.do(lambda p: twins.turn_round(p, [section], data.draw(st.sampled_from([0, 1, 2]))))

    @rule(data=st.data())
    def across(self, data):
        section = self.pick(data, [s.id for s in self.plan.sections])
        if section and len(self.plan.sections) < 6:
            self.do(lambda p: twins.copy_across(p, [section])[0])

    @rule(data=st.data(), count=st.integers(1, 5), side=st.sampled_from(["port", "top", "bow"]))
    def row(self, data, count, side):
        section = self.pick(data, [s.id for s in self.plan.sections])
        if section and len(self.plan.openings) < 40:
            self.do(lambda p: edits.add_row(p, find(p, section), side, (1.0, 3.0), (20.0, 3.0), count)[0])

    @rule(data=st.data(), what=st.sampled_from(["series", "side by side", "singly", "reverse", "resistor", "feed"]))
    def wire(self, data, what):
        lamps = [p.id for p in self.plan.lamps]
        if not lamps:
            return
        some = data.draw(st.lists(st.sampled_from(lamps), min_size=1, max_size=3))
        change = {
            "series": lambda p: edits.wire_in_series(p, some),
            "side by side": lambda p: edits.wire_side_by_side(p, some),
            "singly": lambda p: edits.wire_singly(p, some),
            "reverse": lambda p: edits.reverse(p, some[0]),
            "resistor": lambda p: edits.set_resistor(p, some, data.draw(st.sampled_from([None, 0.5, 470.0, 1e6]))),
            "feed": lambda p: edits.hang_on(p, some, data.draw(st.sampled_from([f.id for f in p.feeds]))),
        }[what]
        self.do(change)

    @rule(part=st.sampled_from(["block-9v", "coin-cr2032", "adapter-12v-1a", "usb-5v", "none"]), more=st.booleans())
    def supply(self, part, more):
        if more and len(self.plan.feeds) < 3:
            self.do(lambda p: edits.add_feed(p, part)[0])
        elif len(self.plan.feeds) > 1 and not more:
            self.do(lambda p: edits.drop_feed(p, p.feeds[-1].id))
        else:
            self.do(lambda p: edits.set_supply(p, part=part))

    @rule(data=st.data(), size=st.tuples(*[st.sampled_from([0.02, 0.5, 8.0, 60.0, 900.0])] * 3))
    def resize(self, data, size):
        if section := self.pick(data, [s.id for s in self.plan.sections]):
            self.do(lambda p: edits.set_fields(p, [section], box=copy_unchecked(find(p, section).box, size=size)))

    @rule(data=st.data(), lining=st.sampled_from(["silver", "bare", "flat-black", "velvet"]))
    def skin(self, data, lining):
        if section := self.pick(data, [s.id for s in self.plan.sections]):
            self.do(lambda p: edits.set_fields(p, [section], lining=lining))
            self.do(lambda p: skins.add_coats(p, section, "inside", data.draw(st.sampled_from(["flat-black", "tar"]))))
            self.do(lambda p: skins.add_seam(p, section, "top", data.draw(st.sampled_from([0.05, 9.0]))))
            self.do(lambda p: skins.add_patch(p, section, "port", (0.0, 0.0), (data.draw(SMALL), 5.0), "putty"))

    @rule(data=st.data(), room=st.text(max_size=90), share=st.floats(0, 1))
    def windows(self, data, room, share):
        openings = [o.id for o in self.plan.openings]
        if opening := self.pick(data, openings):
            into = data.draw(st.sampled_from(["", *(s.id for s in self.plan.sections)]))
            self.do(lambda p: edits.set_fields(p, [opening], room=room, lit=share, into=into))
            self.do(lambda p: patterns.copy_to_other_side(p, [opening])[0])
            self.do(lambda p: occupancy.fill(p, openings, share=share))

    @rule(kind=st.sampled_from(["cabin-row", "engine-core"]), data=st.data())
    def light(self, kind, data):
        self.do(lambda p: edits.add_light(p, kind, "A light")[0])
        if item := self.pick(data):
            self.do(lambda p: edits.assign_light(p, [item], p.lights[-1].id))
        self.do(lambda p: edits.set_light_look(p, p.lights[0].id, "soft"))

    @rule(side=st.sampled_from(["top", "bow", "stern"]), name=st.text(max_size=120))
    def view(self, side, name):
        if len(self.plan.views) < 5:
            self.do(lambda p: views.add_view(p, side)[0])
        self.do(lambda p: views.set_view(p, p.views[-1].id, name=name))

    @rule(data=st.data())
    def take_an_offer(self, data):
        assessment = assess(self.plan, built_in(), QUICK)
        fixes = [fix for f in evaluate_rules(self.plan, assessment)[:4] for fix in f.fixes if "fewest" not in fix.label]
        if fixes:
            self.do(data.draw(st.sampled_from(fixes)).applied)

    @invariant()
    def saves_loads_equal_and_assesses(self):
        assert reopened(self.plan) == self.plan
        assessment = assess(self.plan, built_in(), QUICK)
        assert all(math.isfinite(o.luminance_cd_m2) and o.luminance_cd_m2 >= 0 for o in assessment.openings.values())
        evaluate_rules(self.plan, assessment)


AnyEdits.TestCase.settings = settings(
    max_examples=15, stateful_step_count=25, deadline=None, suppress_health_check=list(HealthCheck), print_blob=True
)
TestAnyEdits = AnyEdits.TestCase


def test_an_offer_whose_subject_is_gone_is_refused_with_a_sentence():
    plan = deck_plan(lamps=1)
    plan = edits.set_fields(plan, ["deck1.lamp.01"], wanted=Wanted(look="full"), resistor_ohm=50.0)
    for finding in evaluate_rules(plan, assess(plan, built_in())):
        for fix in finding.fixes:
            for other in (Plan(), edits.delete(plan, ["deck1.lamp.01"]), edits.delete(plan, ["deck1"])):
                try:
                    fix.applied(other)
                except PlanError as error:
                    assert str(error).endswith(".")


def test_lights_may_say_that_their_sources_show(demo):
    spots = lambda p: [f for f in evaluate_rules(p, assess(p, built_in())) if f.rule == "hot-spot"]  # noqa: E731
    (spot,) = spots(demo)
    plan = copy_unchecked(demo, lights=(Light(id="f", name="Hangar lamps", kind="deck-flood", sources_show=True),))
    plan = edits.assign_light(plan, [spot.subject], "f")
    assert spots(plan) == []
    assert lamp_of(plan, "hangar.lamp.02").light == ""


@pytest.mark.parametrize("bad", [math.nan, math.inf, -math.inf])
def test_what_is_not_finite_is_refused_even_where_nothing_may_stand(bad):
    plan = deck_plan()
    for item in (copy_unchecked(plan.lamps[0], resistor_ohm=bad), copy_unchecked(plan.openings[0], at=(bad, 0.0, 0.0))):
        with pytest.raises(PlanError, match="finite number"):
            check_item(item)


def test_an_id_taken_twice_is_found_among_what_is_nested_too():
    plan = deck_plan()
    twice = copy_unchecked(plan, lamps=(*plan.lamps, copy_unchecked(plan.lamps[0], id="deck1")))
    with pytest.raises(PlanError, match="used twice"):
        validate_edit(plan, twice)
    renamed = copy_unchecked(plan, lamps=(copy_unchecked(plan.lamps[0], id=plan.openings[3].id), *plan.lamps[1:]))
    with pytest.raises(PlanError, match="used twice"):
        validate_edit(plan, renamed)


def without_lone_lights(data):
    """A plan's JSON as version 10 had it: the features that lights come from, and lamps that are no light of their own."""
    lone = {x["id"] for x in data.get("lights", ()) if x["id"].startswith("light.")}
    purposes = {kind: purpose for purpose, kind in KINDS_OF_PURPOSE.items()}
    features = [{**x, "purpose": purposes[x["kind"]]} for x in data.pop("lights", ()) if x["id"] not in lone]
    for x in features:
        del x["kind"]
    for group in ("sections", "openings", "lamps", "dots"):
        for item in data.get(group, ()):
            owner = item.pop("light", None)
            if owner is not None and owner not in lone:
                item["feature"] = owner
    return {**data, "features": features} if features else data


@pytest.mark.parametrize("name", ["bryla", "swistak", "szron"])
def test_a_plan_of_version_10_has_lights_for_its_features_and_lone_lamps(name):
    """Real files of version 10: nothing of them is lost, and each lamp that is seen itself is one light with a name."""
    path = DATA / f"{name}-version-10.gwiazda"
    raw = told_of_materials(path)
    plan = storage.load(path).plan
    assert raw.pop("version") == 10 and validate_edit(Plan(), plan) is plan
    again = json.loads(storage.plan_to_json(plan))
    assert again.pop("version") == PLAN_VERSION and without_lone_lights(again) == raw
    seen = [p for p in plan.lamps if p.mount == "outside"]
    assert seen and all(whole_light(plan, p.id) is not None for p in seen)
    names = [x.name for x in plan.lights]
    assert len(set(names)) == len(names) and not any(re.search(r"[._]", n) for n in names)
    assert {x.kind for x in plan.lights} <= set(built_in().light_kinds)


def told_of_materials(path) -> dict:
    """An older plan's file as it lies on the disk, with what was called plastic called material, and its evenings of two hours said."""
    raw = json.loads(zipfile.ZipFile(path).read("plan.json").replace(b'"plastic":', b'"material":'))
    raw.setdefault("bench", {}).setdefault("hours", 2.0)
    return raw


def test_a_plan_of_version_11_says_material_for_plastic():
    """A real file of version 11: what kit and sections were called plastic by is their material, and the rest as it was."""
    path = DATA / "szron-version-11.gwiazda"
    raw = told_of_materials(path)
    plan = storage.load(path).plan
    assert raw.pop("version") == 11 and plan.kit.material == raw["kit"]["material"] == "mid-grey"
    again = json.loads(storage.plan_to_json(plan))
    assert again.pop("version") == PLAN_VERSION and again == raw


def test_a_plan_of_version_4_opens_unchanged():
    """A real file of version 4, with regulators and motors: no fibres and no loom, and all it had."""
    raw = json.loads(zipfile.ZipFile(DATA / "swistak-version-4.gwiazda").read("plan.json"))
    plan = storage.load(DATA / "swistak-version-4.gwiazda").plan
    assert raw["version"] == 4 and plan.version == PLAN_VERSION
    assert len(plan.lamps) == len(raw["lamps"]) and [f.id for f in plan.feeds] == [f["id"] for f in raw["feeds"]]
    assert plan.dots == plan.bundles == plan.panels == plan.passages == plan.hubs == plan.leads == ()
    assert assess(plan, built_in()).feeds["supply"].draw_a > 0


def test_a_plan_of_version_3_opens_unchanged():
    raw = json.loads(zipfile.ZipFile(DATA / "perkoz-version-3.gwiazda").read("plan.json"))
    plan = storage.load(DATA / "perkoz-version-3.gwiazda").plan
    assert raw["version"] == 3 and plan.version == PLAN_VERSION
    again = json.loads(storage.plan_to_json(plan))
    assert again.pop("bench") == {"hours": 2.0}
    for data in (again, raw):
        # Channels were words, and have become things.
        del data["version"]
        for lamp in data["lamps"]:
            lamp.pop("channel", None)
    assert [c["id"] for c in again.pop("channels")] and without_lone_lights(again) == raw


@pytest.mark.parametrize("name", ["bryla", "perkoz"])
def test_a_plan_of_version_5_has_channels_for_the_words_it_named(name):
    """Real files of version 5: each word becomes one channel, of an id that nothing else has, for all that named it."""
    raw = json.loads(zipfile.ZipFile(DATA / f"{name}-version-5.gwiazda").read("plan.json"))
    plan = storage.load(DATA / f"{name}-version-5.gwiazda").plan
    assert raw["version"] == 5 and plan.version == PLAN_VERSION and plan.cues == plan.boards == plan.triggers == ()
    called = {c.id: c.name or c.id for c in plan.channels}
    for group in ("lamps", "dots"):
        for old, new in zip(raw.get(group, ()), getattr(plan, group), strict=True):
            assert called.get(new.channel, "") == old.get("channel", "")
    assert set(called.values()) == {x["channel"] for g in ("lamps", "dots") for x in raw.get(g, ()) if "channel" in x}
    assert (
        validate_edit(Plan(), plan) is plan and storage.plan_from_json(storage.plan_to_json(plan).encode(), "x") == plan
    )


def test_a_plan_of_version_6_opens_unchanged():
    """A real file of version 6: it had all but laid photos, variants and kits alike."""
    raw = told_of_materials(DATA / "szron-version-6.gwiazda")
    plan = storage.load(DATA / "szron-version-6.gwiazda").plan
    assert raw.pop("version") == 6 and plan.version == PLAN_VERSION and plan.variants == () and plan.bench.alike == 1
    again = json.loads(storage.plan_to_json(plan))
    assert again.pop("version") == PLAN_VERSION and without_lone_lights(again) == raw


def test_a_plan_of_version_7_opens_unchanged():
    """A real file of version 7: it had clear shells, and nothing that holds lamps, no lenses, no lights that match."""
    raw = told_of_materials(DATA / "bryla-version-7.gwiazda")
    plan = storage.load(DATA / "bryla-version-7.gwiazda").plan
    assert raw.pop("version") == 7 and plan.version == PLAN_VERSION and plan.carriers == ()
    again = json.loads(storage.plan_to_json(plan))
    assert again.pop("version") == PLAN_VERSION and without_lone_lights(again) == raw


def test_a_plan_of_version_12_keeps_what_was_painted_and_how_long_its_evenings_are():
    box = {"at": [0, 0, 0], "size": [9, 9, 9]}
    done = [
        {"id": "d1", "step": "a:paint.1", "of": "x", "at": "2026-11-01"}, {"id": "d2", "step": "b:paint.1", "of": "y"}, {"id": "d3", "step": "a:leak"}
    ]  # fmt: skip
    data = {
        "version": 12, "sections": [{"id": i, "name": i, "box": box} for i in ("a", "b")], "done": done,
        "section_orders": [{"id": "o", "section": "b", "paint": "before joining"}],
        "own_steps": [{"id": "s", "name": "Decals", "after": ["a:paint.1", "b:paint.1"]}],
    }  # fmt: skip
    plan = storage.plan_from_json(json.dumps(data).encode(), "x")
    assert [(d.step, d.of) for d in plan.done] == [(":paint.1", ""), ("b:paint.1", "y"), ("a:leak", "")]
    assert plan.own_steps[0].after == (":paint.1", "b:paint.1") and plan.bench.hours == 2.0
    typed = storage.plan_from_json(json.dumps({"version": 12, "bench": {"hours": 1.5}}).encode(), "x")
    assert typed.bench.hours == 1.5 and Plan().bench.hours == 3.0
    first = storage.plan_from_json(json.dumps(data | {"orders": {"paint": "before joining"}}).encode(), "x")
    assert first.done[0].step == "a:paint.1"

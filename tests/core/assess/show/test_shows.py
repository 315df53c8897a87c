"""Plans that move: power, boards and their judgement, cue sheets, the header, the simulated controller."""

from __future__ import annotations

import json
import shutil
import subprocess

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.cli import main
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lamp.lamp_models import lamp_model_of
from gwiazda.core.assess.show.outputs import dims, outputs_of, proposals_for
from gwiazda.core.assess.show.playing import controller_of, strips_of
from gwiazda.core.assess.show.scoring import counter_steps, timing_of
from gwiazda.core.effect.controller import Controller, Output, quantised
from gwiazda.core.effect.score import levels
from gwiazda.core.effect.timers import output_ohm
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange import brief, cues
from gwiazda.core.exchange.header import c_header, frames_of
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import (
    Awake,
    Blink,
    Chase,
    Counter,
    Cue,
    Fade,
    Flashes,
    Flicker,
    Lamp,
    LampRef,
    Load,
    Plan,
    Pulse,
    Regulated,
    Resistor,
    Series,
    Sound,
    Stages,
    Steady,
    Steps,
    Switched,
    copy_unchecked,
)
from gwiazda.core.plan.storage import load, plan_from_json, plan_to_json
from gwiazda.demos import path_of

CAT = built_in()
ALL = (
    Steady(level=0.4), Blink(period_s=0.7, duty=0.3, lag=0.25), Flashes(count=3, period_s=2.0), Pulse(low=0.2, shape="ramp", even="light"),
    Flicker(rate_hz=11.0, smooth=False, seed=9), Counter(ohms=(330.0, 0.0, 1000.0)), Chase(program="mixed", tail=0.4, back=True),
    Fade(seconds=1.5, start=0.2), Stages(step_s=0.5, stages=2), Awake(share=0.3, every_s=7.0),
    Steps(at_s=(0.0, 1.5, 2.0), levels=(0.0, 1.0, 0.25), glide=True), Sound(what="Horn"),
)  # fmt: skip


def deck(lamps: int = 5, supply: str = "adapter-9v-0.5a", each: bool = True) -> tuple[Plan, list[str]]:
    """A deck whose lamps are on a channel each, or on one."""
    plan = deck_plan(windows=6, lamps=lamps, supply=supply)
    ids = [p.id for p in plan.lamps]
    if each:
        return edits.channel_each(plan, ids, "c")
    plan, channel = edits.add_channel(plan, "all", ids)
    return plan, [channel]


def rules(plan: Plan) -> dict:
    return {f.rule: f for f in evaluate_rules(plan, assess(plan, CAT))}


def settles(plan: Plan, rule: str, fix: int = 0) -> bool:
    return rule not in rules(rules(plan)[rule].fixes[fix].applied(plan))


# -- power ------------------------------------------------------------------------------------------------


def test_a_blink_takes_its_share_of_the_current_and_lasts_as_much_longer():
    still, channels = deck(supply="block-9v", each=False)
    plan, _ = edits.add_cue(still, channels, Blink(period_s=1.0, duty=0.25))
    before, assessment = assess(still, CAT), assess(plan, CAT)
    state, show = assessment.effects.channels["all"], assessment.effects.feeds["supply"]
    assert state.draw == pytest.approx(0.25, abs=1e-3) and state.full_a == pytest.approx(assessment.supply.draw_a)
    assert show.mean_a == pytest.approx(0.25 * show.full_a, rel=0.01) and show.peak_a == pytest.approx(show.full_a)
    # A quarter of the current lasts four times as long, and a little more: the block holds more at less.
    assert 4.0 < assessment.supply.hours / before.supply.hours < 4.6
    draw = next(m for m in assessment.meters if m.id == "draw")
    assert draw.note.startswith("at most, mean")


def test_peaks_that_coincide_are_found_and_put_apart():
    plan, channels = deck(supply="coin-cr2032")
    plan = edits.set_fields(plan, [p.id for p in plan.lamps], part="chip-1206-red")
    for c in channels:
        plan, _ = edits.add_cue(plan, [c], Flashes(period_s=2.0, count=1, on_s=0.1))
    assessment = assess(plan, CAT)
    show = assessment.effects.feeds["supply"]
    assert show.peak_a == pytest.approx(show.full_a) and show.mean_a < 0.1 * show.peak_a
    if show.peak_a > assessment.supply.limit_a:
        assert settles(plan, "peaks")
    apart = edits.set_pattern(plan, plan.cues[0].id, phase=0.5)
    assert assess(apart, CAT).effects.feeds["supply"].peak_a < 0.9 * show.peak_a


def test_a_plan_that_does_not_move_costs_what_it_did():
    plan, _ = deck()
    assessment = assess(plan, CAT)
    assert not assessment.effects.moves and assessment.effects.mean_current_share == {}
    assert assessment.effects.feeds["supply"].mean_a == pytest.approx(assessment.supply.draw_a)


def test_lamps_that_flash_by_themselves_keep_their_own_time():
    plan = deck_plan(lamps=0)
    for k in range(2):
        plan = edits.add_lamp(plan, Lamp(id=f"b{k}", part="flash-5-blue", at=(20.0 + 30 * k, 0, 30), mount="outside"))
    assessment = assess(plan, CAT)
    assert {assessment.lamps[i].channel for i in ("b0", "b1")} == {"b0", "b1"} and assessment.effects.moves
    light, _ = levels(assessment.effects.score, np.linspace(0, 120, 4000))
    assert light.mean(axis=1) == pytest.approx([0.5, 0.5], abs=0.02) and not np.array_equal(light[0], light[1])
    assert assessment.effects.feeds["supply"].mean_a == pytest.approx(0.5 * assessment.supply.draw_a, rel=0.02)
    assert [s.id for s in strips_of(plan, assessment)] == ["b0", "b1"]
    # On a channel that goes dark they are dark too.
    plan, _ = edits.add_channel(plan, "beacons", ["b0", "b1"], rest="dark")
    light, _ = levels(assess(plan, CAT).effects.score, np.linspace(0, 5, 200))
    assert light.max() == 0.0


def test_a_counters_resistors_are_solved_as_a_circuit():
    """By hand: the lamp's own curve against the line of what drives it, halved again and again."""
    plan, channels = deck(lamps=1)
    ohms = (330.0, 0.0, 2200.0)
    kind = lamp_model_of(CAT, plan.lamps[0])
    found = counter_steps(kind, 1, 9.0, ohms, 0.01)
    for ohm, draw in zip(ohms, found.draw, strict=True):
        if ohm == 0.0:
            assert draw == 0.0
            continue
        low, high = 0.0, 0.1
        for _ in range(60):
            mid = (low + high) / 2
            volts = sum(j.volts(mid) for j in kind.junctions) + mid * (ohm + output_ohm(9.0))
            low, high = (mid, high) if volts < 9.0 else (low, mid)
        assert draw * 0.01 == pytest.approx(low, rel=1e-3)
    plan, _ = edits.add_cue(plan, channels, Counter(rate_hz=5.0, ohms=ohms))
    light, draw = levels(assess(plan, CAT).effects.score, [0.1, 0.3, 0.5])
    assert light[0, 1] == 0.0 and light[0, 0] > light[0, 2] > 0 and not np.array_equal(light, draw)


# -- boards -----------------------------------------------------------------------------------------------


def test_what_moves_and_hangs_on_nothing_is_found_and_boards_are_proposed():
    plan, channels = deck()
    plan, _ = edits.add_cue(plan, channels, Chase())
    finding = rules(plan)["no-output"]
    assert "5 channels move" in finding.sentence
    for n in range(len(finding.fixes)):
        mended = validate_edit(plan, finding.fixes[n].applied(plan))
        assert "no-output" not in rules(mended) and set(edits.outputs_of_channels(mended)) == set(channels)
    ready = next(p for p in proposals_for(plan, assess(plan, CAT)) if p.name.startswith("Ready"))
    assert [u.part.kind for u in ready.boards] == ["chaser"]


def test_a_proposal_dims_only_where_it_can():
    plan, channels = deck(lamps=5)
    plan, _ = edits.add_cue(plan, channels, Pulse(lag=0.2))
    assessment = assess(plan, CAT)
    assert dims(plan.cues[0].does) and not any(p.name.startswith("Ready") for p in proposals_for(plan, assessment))
    plan = edits.with_channels(plan)
    plan, board = edits.add_board(plan, "flasher-4")
    plan = edits.drive_by(plan, channels, board)
    found_rules = rules(plan)
    assert {"cannot-dim", "board-full"} <= set(found_rules)
    assert settles(plan, "cannot-dim") and settles(plan, "board-full")


def test_a_pin_that_gives_too_much_gets_a_stage():
    plan, channels = deck(each=False)
    plan = edits.set_fields(plan, [p.id for p in plan.lamps], wanted={"current_ma": 15.0})
    plan, _ = edits.add_cue(plan, channels, Blink())
    plan, board = edits.add_board(plan, "controller-3v3")
    plan = edits.drive_by(plan, channels, board)
    finding = rules(plan)["output-over"]
    assert finding.severity == "stop" and "12 mA" in finding.sentence
    mended = finding.fixes[0].applied(plan)
    assert "output-over" not in rules(mended)
    (state,) = outputs_of(mended, assess(mended, CAT))
    assert state.stage == "npn-small" and state.wired and not state.over


def test_outputs_used_twice_and_numbered_anew():
    plan, channels = deck()
    plan, _ = edits.add_cue(plan, channels, Blink())
    plan, board = edits.add_board(plan, "controller-5v")
    plan = edits.drive_by(plan, channels, board)
    plan = edits.set_channel(plan, channels[1], output=1)
    assert settles(plan, "output-twice")
    gone = edits.drop_board(plan, board)
    assert gone.boards == () and all(c.board == "" and c.output == 0 for c in gone.channels)


def test_a_timers_parts_are_found_for_a_rate():
    plan, channels = deck(each=False)
    plan, _ = edits.add_cue(plan, channels, Blink(period_s=2.0))
    plan, board = edits.add_board(plan, "timer-cmos")
    plan = edits.drive_by(plan, channels, board)
    assert "no resistors" in rules(plan)["timer-parts"].sentence and settles(plan, "timer-parts")
    mended = rules(plan)["timer-parts"].fixes[0].applied(plan)
    assert timing_of(mended.boards[0]).rate_hz == pytest.approx(0.5, rel=0.1)
    off = edits.set_board(mended, board, c_uf=1.0, r2_ohm=10e3, r1_ohm=10e3)
    assert settles(off, "timer-rate")


def test_a_relay_is_not_asked_for_flicker():
    plan, channels = deck(each=False)
    plan, _ = edits.add_cue(plan, channels, Flicker(rate_hz=12.0))
    plan, board = edits.add_board(plan, "relay-4")
    plan = edits.drive_by(plan, channels, board)
    assert {"cannot-dim"} <= set(rules(plan))
    plan = edits.set_cue(plan, plan.cues[0].id, does=Blink(period_s=0.1))
    assert "too-fast" in rules(plan)


def test_a_regulator_behind_a_fast_output_smooths_it_away():
    plan, channels = deck(lamps=1, supply="adapter-12v-1a")
    string = Series(id="s", items=(Resistor(id="s.r"), LampRef(lamp=plan.lamps[0].id)))
    tree = Switched(
        id="out", part="mosfet-logic", channel=channels[0], items=(Regulated(id="reg", volts=5.0, items=(string,)),)
    )
    plan = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], items=(tree,)),))
    plan, _ = edits.add_cue(plan, channels, Blink(period_s=0.02))
    finding = rules(plan)["slow-regulator"]
    assert "feed on" in finding.sentence
    mended = finding.fixes[0].applied(plan)
    assert isinstance(mended.feeds[0].items[0], Regulated) and "slow-regulator" not in rules(mended)
    slow = edits.set_pattern(plan, plan.cues[0].id, period_s=4.0)
    assert "slow-regulator" not in rules(slow)


def test_a_sound_module_counts_with_its_cue():
    plan, _channels = deck(lamps=1)
    plan, horn = edits.add_channel(plan, "horn")
    tree = Switched(id="out", part="mosfet-logic", channel=horn, items=(Load(id="horn.chip", part="sound-chip"),))
    plan = copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], items=(tree,)),))
    plan = edits.set_channel(plan, horn, rest="dark")
    plan, _ = edits.add_cue(plan, [horn], Sound(what="Horn"), length_s=6.0, again_s=60.0)
    state = assess(plan, CAT).effects.channels[horn]
    assert state.full_a > 0 and state.draw == pytest.approx(0.1, rel=0.05) and "empty-channel" not in rules(plan)


# -- cues -------------------------------------------------------------------------------------------------


def test_cues_that_contradict_each_other_are_found_with_when():
    plan, channels = deck(each=False)
    plan, one = edits.add_cue(plan, channels, Steady(), name="One")
    plan, two = edits.add_cue(plan, channels, Blink(), start_s=5.0, name="Two")
    finding = rules(plan)["cues-overlap"]
    assert finding.severity == "stop" and "from 5 s on" in finding.sentence and finding.subject == two
    assert settles(plan, "cues-overlap", 0) and settles(plan, "cues-overlap", 1)
    assert edits.cue_of(finding.fixes[0].applied(plan), one).length_s == 5.0
    beside = edits.set_cue(plan, one, length_s=1.0, again_s=4.0)
    beside = edits.set_cue(beside, two, start_s=1.5, length_s=2.0)
    assert "cues-overlap" not in rules(beside), "it fits into the gap"
    assert "cues-overlap" in rules(edits.set_cue(beside, two, length_s=3.0))


def test_fast_flashing_is_a_caution_and_large_stops():
    plan, channels = deck(each=False)
    plan, cue = edits.add_cue(plan, channels, Blink(period_s=0.1))
    finding = rules(plan)["flashing"]
    assert finding.severity == "look" and "10 times a second" in finding.sentence and settles(plan, "flashing")
    near = edits.set_room(plan, distance_m=0.1)
    assert rules(near)["flashing"].severity == "stop"
    assert "flashing" not in rules(edits.set_pattern(plan, cue, period_s=0.5))
    assert "flashing" not in rules(edits.set_pattern(plan, cue, low=0.7)), "a ripple on a steady light is none"


def test_a_trigger_that_never_comes_and_channels_without_lamps():
    plan, channels = deck(each=False)
    plan, trigger = edits.add_trigger(plan, "Doorbell")
    plan, empty = edits.add_channel(plan, "empty")
    plan, _cue = edits.add_cue(plan, [*channels, empty], Blink(), trigger=trigger)
    assert settles(plan, "never-pressed") and settles(plan, "empty-channel")
    assert edits.delete(plan, [trigger]).cues == (), "a cue goes with its trigger"
    left = edits.delete(plan, [empty])
    assert left.cues[0].channels == tuple(channels) and edits.delete(left, channels).cues == ()
    assert all(p.channel == "" for p in edits.delete(left, channels).lamps)


@pytest.mark.parametrize("does", ALL, ids=lambda d: type(d).__name__)
def test_every_pattern_goes_out_and_comes_back(does):
    plan, channels = deck()
    plan, _ = edits.add_cue(
        plan, channels, does, start_s=1.25, length_s=3.0, again_s=12.0, name="A; name, with “signs”"
    )
    assert plan_from_json(plan_to_json(plan).encode(), "x") == plan
    for text in (cues.cue_csv(plan), cues.cue_json(plan)):
        assert cues.read_cues(copy_unchecked(plan, cues=()), text).cues == plan.cues
    assert validate_edit(Plan(), plan) is plan and brief.brief(plan, assess(plan, CAT))


def test_a_sheet_parted_by_semicolons_and_with_commas_for_points():
    """As a spreadsheet of many a country writes it."""
    plan, channels = deck(lamps=2)
    text = f"\ufeffstart_s;channels;pattern;length_s\n0,5;{channels[0]}|new one;blink;2,5\n\n"
    after = cues.read_cues(plan, text)
    (cue,) = after.cues
    assert (cue.start_s, cue.length_s) == (0.5, 2.5) and cue.channels == (channels[0], "new-one")
    assert next(c.name for c in after.channels if c.id == "new-one") == "new one"


@given(st.lists(st.tuples(st.floats(0, 100), st.sampled_from(ALL), st.floats(0.1, 9)), max_size=6))
@settings(max_examples=25, deadline=None)
def test_cue_sheets_come_back_whatever_is_in_them(rows):
    plan, channels = deck(lamps=2)
    for start, does, length in rows:
        plan, _ = edits.add_cue(
            plan, channels, does, start_s=round(start, 3), length_s=round(length, 3), stack="modifier"
        )
    again = cues.from_csv(plan, cues.cue_csv(plan))
    assert [(c.start_s, c.does, c.length_s) for c in again.cues] == sorted(
        ((c.start_s, c.does, c.length_s) for c in plan.cues), key=lambda x: x[0]
    )


HEAD = "start_s,length_s,again_s,after,channels,stack,pattern,settings,name\n"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("a,b\n", "no column start_s"),
        (HEAD.replace("name", "nmae"), "“nmae” is not known"),
        (HEAD + "5,,,,a,base,blink,,\n2,,,,b,base,blink,,\n", "line 3: 2 s comes after 5 s"),
        (HEAD + ",,,,a,base,blink,,\n", "line 2: there is no start"),
        (HEAD + "0,,,,a,base\n", "line 2: 6 cells"),
        (HEAD + "0,,,,,base,blink,,\n", "line 2: there is no channel"),
        (HEAD + "0,,,,a,base,wobble,,\n", "“wobble” is not known"),
        (HEAD + "0,,,,a,base,blink,period_s=0,\n", "line 2: does.period_s is refused"),
        (HEAD + "0,,,,a,base,blink,speed=3,\n", "“speed=3” is no setting"),
        (HEAD + "soon,,,,a,base,blink,,\n", "“soon” is not a number"),
        (HEAD + "0,,,,a,base,blink,,\n3,,,,a,base,steady,,\n", "line 3: a still does something else"),
        (HEAD + "0,,2,,a,base,blink,,\n", "line 2"),
        (HEAD + "".join(f"{k},0.5,,,a,base,steady,,\n" for k in range(10_000)), "line 2002: more than 2,000 cues"),
        (HEAD + "0,,,,a,base,steps,at_s=0 2 1; levels=0 1 0,\n", "don't go forward"),
        ('{"format": "else"}', "no cue sheet"),
        ("{", "line 1"),
        ('{"format": "gwiazda cue sheet", "version": 9}', "version"),
        ('{"format": "gwiazda cue sheet", "version": 1, "cues": [{"id": "c", "channels": ["x"]}]}', "names the channel “x”"),
        ('{"format": "gwiazda cue sheet", "version": 1, "cues": [{"id": "c", "channels": []}]}', "cues 1"),
    ],
)  # fmt: skip
def test_bad_cue_sheets_are_refused_and_said_where(text, words):
    plan, _ = deck()
    with pytest.raises(PlanError) as refused:
        cues.read_cues(plan, text)
    assert words in str(refused.value)


def test_zero_periods_and_too_many_steps_are_refused():
    plan, channels = deck()
    plan, cue = edits.add_cue(plan, channels, Blink())
    with pytest.raises(PlanError, match="period_s"):
        edits.set_pattern(plan, cue, period_s=0.0)
    with pytest.raises(PlanError, match="longer than their period"):
        edits.set_cue(plan, cue, does=Flashes(period_s=0.3, count=2, on_s=0.1, gap_s=0.05)) and edits.set_pattern(
            edits.set_cue(plan, cue, does=Flashes(period_s=0.3, count=2, on_s=0.1, gap_s=0.05)), cue, on_s=0.2
        )
    many = copy_unchecked(
        plan,
        cues=(Cue(id="c", channels=tuple(channels), does=Steps(at_s=tuple(range(10_000)), levels=(1.0,) * 10_000)),),
    )
    with pytest.raises(PlanError, match="up to 2000 entries"):
        validate_edit(plan, many)
    with pytest.raises(PlanError, match="has a length"):
        edits.set_cue(plan, cue, again_s=3.0)


def test_ready_patterns_are_real_and_within_their_rules():
    plan, channels = deck()
    for p in CAT.prototypes.values():
        made, cue = edits.play(plan, channels, p.does, p.name)
        assert validate_edit(plan, made) and edits.cue_of(made, cue).channels == tuple(channels)
    a_minute = {
        i: 60.0 / float(CAT.prototypes[i].does["period_s"])
        for i in CAT.prototypes
        if "period_s" in CAT.prototypes[i].does
    }
    assert a_minute["ship-flashing"] >= 120 and 60 <= a_minute["road-indicator"] <= 120
    assert all(40 <= a_minute[i] <= 100 for i in ("air-beacon", "air-strobe", "air-double"))
    assert all(120 <= a_minute[i] <= 240 for i in ("road-beacon", "road-turning"))


# -- the controller ---------------------------------------------------------------------------------------


def test_levels_are_given_in_the_steps_an_output_has():
    assert quantised(np.array([0.0, 0.49, 0.5, 1.0]), 0).tolist() == [0, 0, 1, 1]
    steps = quantised(np.linspace(0, 1, 10_001), 8)
    assert len(np.unique(steps)) == 256 and np.abs(steps - np.linspace(0, 1, 10_001)).max() <= 0.5 / 255 + 1e-9
    assert quantised(np.array([0.123]), -1)[0] == 0.123


def test_the_controller_holds_between_refreshes_and_leaves_out_what_it_cannot_do():
    plan, channels = deck()
    plan, _ = edits.add_cue(plan, channels, Fade(seconds=1.0, even="light"))
    score = assess(plan, CAT).effects.score
    slow = Controller(score, (Output(8, 10.0),) * 5)
    assert slow.to(0.19)[0] == slow.to(0.11)[0] == pytest.approx(0.1, abs=0.003) and slow.to(0.21)[0] > 0.19
    for k in range(1, 101):
        slow.to(0.2 + 0.01 * k)
    assert slow.frames >= 9 and slow.dropped == 0
    asked = Controller(score, (Output(8, 20_000.0),) * 5)
    for k in range(1, 101):
        asked.to(0.01 * k)
    assert asked.dropped > asked.frames > 0 and asked.every(20_000.0) == 4
    assert slow.to(0.55)[0] == slow.to(0.55)[0], "back and forth, the same"
    with pytest.raises(ValueError, match="one output for each"):
        Controller(score, ())


def test_what_a_board_plays_is_what_its_outputs_can():
    plan, channels = deck()
    plan, _ = edits.add_cue(plan, channels, Pulse(low=0.0))
    as_written = controller_of(plan, assess(plan, CAT)).to(0.3)
    plan, board = edits.add_board(plan, "relay-4")
    plan = edits.drive_by(plan, channels, board)
    played = controller_of(plan, assess(plan, CAT)).to(0.3)
    assert 0.0 < as_written[0] < 1.0 and set(played.tolist()) <= {0.0, 1.0}


# -- the header -------------------------------------------------------------------------------------------

PROGRAM = """#include "show.h"
#include <stdio.h>
int main(void) {
  for (uint32_t ms = 0; ms < 3u * GWIAZDA_FRAMES * GWIAZDA_FRAME_MS; ms += GWIAZDA_FRAME_MS)
    for (uint32_t c = 0; c < GWIAZDA_CHANNELS; c++) printf("%u ", gwiazda_level(c, ms));
  return gwiazda_level(GWIAZDA_CHANNELS, 0u);
}
"""


@pytest.mark.parametrize("name", ["", "bryla"])
def test_the_header_compiles_and_gives_the_cores_levels(tmp_path, name):
    compiler = shutil.which("gcc") or shutil.which("cc")
    if compiler is None:
        pytest.skip("there is no C compiler")
    if name:
        plan = load(path_of(name)).plan
    else:
        plan, channels = deck()
        plan = edits.set_channel(plan, channels[0], name="1st */ lamp, ąę")
        plan = edits.set_channel(plan, channels[1], name="1st */ lamp, ąę")
        plan, _ = edits.add_cue(plan, channels, Chase(tail=0.5, step_s=0.07), start_s=2.0)
        plan, _ = edits.add_cue(plan, channels[:1], Fade(seconds=1.5), length_s=2.0)
    assessment = assess(plan, CAT)
    (tmp_path / "show.h").write_text(c_header(plan, assessment), encoding="utf-8")
    (tmp_path / "main.c").write_text(PROGRAM)
    built = subprocess.run(
        [compiler, "-std=c99", "-Wall", "-Wextra", "-Werror", "-o", "show", "main.c"], cwd=tmp_path, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert built.returncode == 0, built.stderr
    ran = subprocess.run([str(tmp_path / "show")], capture_output=True, text=True, check=False)
    assert ran.returncode == 0
    given_levels = np.array(ran.stdout.split(), int)
    from gwiazda.core.assess.show.outputs import moving

    channels = list(moving(plan))
    table = frames_of(assessment.effects.score, channels, assessment.effects.seconds)
    played = given_levels.reshape(-1, len(channels))
    assert np.array_equal(played[: len(table)], table)
    light, _ = levels(assessment.effects.score, (np.arange(len(table)) + 0.5) / 50.0)
    rows = [assessment.effects.score.rows[c] for c in channels]
    assert np.abs(played[: len(table)].T / 255.0 - np.clip(light[rows], 0, 1)).max() <= 0.5 / 255 + 1e-9
    assert np.array_equal(
        played[len(table)], played[int(c_header(plan, assessment).split("LOOP_FRAME ")[1].split("u")[0])]
    )


@pytest.mark.parametrize(("given", "name"), [("Deck 1, aft", "DECK_1_AFT"), ("2nd row", "C_2ND_ROW"), ("—", "C_")])
def test_names_in_a_header_are_such_as_c_takes(given, name):
    from gwiazda.core.exchange.header import _name

    assert _name(given) == name


def test_a_header_of_nothing_or_of_too_much_is_refused():
    plan, channels = deck()
    with pytest.raises(PlanError, match="nothing moves"):
        c_header(plan, assess(plan, CAT))
    plan, _ = edits.add_cue(plan, channels, Chase())
    with pytest.raises(PlanError, match="kB of tables"):
        c_header(plan, assess(plan, CAT), seconds=3600.0)


def test_the_show_goes_out_from_the_command_line(tmp_path, capsys):
    plan = str(path_of("bryla"))
    for name, words in (
        ("c.csv", "start_s"),
        ("c.json", "gwiazda cue sheet"),
        ("show.h", "gwiazda_level"),
        ("brief.md", "## Outputs"),
    ):
        assert main(["export", plan, "--show", str(tmp_path / name)]) == 0
        assert words in (tmp_path / name).read_text(encoding="utf-8")
    assert main(["export", plan, "--pins", "-"]) == 0
    assert "Engine cores" in capsys.readouterr().out
    assert main(["export", plan, "--show", str(tmp_path / "c.txt")]) == 2
    assert ".csv" in capsys.readouterr().err
    assert main(["export", plan, "--moving", str(tmp_path / "m.gif"), "--seconds", "0.4", "--size", "320x160"]) == 0
    assert (tmp_path / "m.gif").read_bytes()[:3] == b"GIF"
    data = json.loads((tmp_path / "c.json").read_text())
    assert {c["id"] for c in data["channels"]} >= {"cores", "rings", "lane.1"}


def test_the_demo_show_exists_and_settles_nothing_of_it():
    plan = load(path_of("bryla")).plan
    assessment = assess(plan, CAT)
    topics = {f.topic for f in evaluate_rules(plan, assessment)}
    assert {"cue", "output"}.isdisjoint(topics)
    assert len({d.id for d in plan.dots if d.channel.startswith("lane.")}) == 40 and assessment.effects.moves
    assert all(not o.over and o.wired for o in outputs_of(plan, assessment))

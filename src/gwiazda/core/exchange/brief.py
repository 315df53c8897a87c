"""What goes to whoever writes the code or builds the board: a pin table, a brief in words, the currents over the show."""

from __future__ import annotations

from gwiazda.core.assess.show.outputs import board_name, cues_on, moving, outputs_of
from gwiazda.core.assess.show.scoring import timing_of
from gwiazda.core.assess.show.words import pattern_words, when_words
from gwiazda.core.assess.states import Assessment
from gwiazda.core.escaping import in_markdown
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import channel_name, name_of
from gwiazda.core.quantities import counted, figure, format_current, format_hours, format_resistance
from gwiazda.core.tables import Table

PIN_COLUMNS = ("board", "output", "channel", "lamps", "fully_on_mA", "limit_mA", "drive", "does")


def pin_table(plan: Plan, assessment: Assessment) -> str:
    """Board, output, channel, lamps, current and what it does, as CSV."""
    table = Table(PIN_COLUMNS)
    for o in outputs_of(plan, assessment):
        drive = assessment.catalogue.drives[o.stage].name if o.stage else "by itself"
        does = "; ".join(f"{pattern_words(c.does)}, {when_words(c)}" for c in cues_on(plan, o.channel))
        table.row([
            board_name(plan, o.board, assessment.catalogue), o.output, channel_name(plan, o.channel), "; ".join(name_of(plan, i) for i in o.lamps),
            figure(o.full_a * 1e3), figure(o.limit_a * 1e3), drive, does,
        ])  # fmt: skip
    return table.text()


def current_report(plan: Plan, assessment: Assessment) -> str:
    """Average and most of each channel and source, as CSV."""
    table = Table(("of", "lamps", "fully_on_mA", "mean_mA", "mean_light_percent", "peak_mA", "peak_at_s"))
    for s in assessment.effects.channels.values():
        table.row([
            channel_name(plan, s.id), s.lamps, figure(s.full_a * 1e3), figure(s.mean_a * 1e3), figure(s.light * 100), "", "",
        ])  # fmt: skip
    for f in plan.feeds:
        show = assessment.effects.feeds[f.id]
        table.row([
            f.name or assessment.feeds[f.id].name, "", figure(show.full_a * 1e3), figure(show.mean_a * 1e3), "", figure(show.peak_a * 1e3),
            figure(show.peak_s),
        ])  # fmt: skip
    return table.text()


def brief(plan: Plan, assessment: Assessment) -> str:
    """All that is asked of the code, in plain words (Markdown)."""
    channels = moving(plan)
    lines = [f"# {in_markdown(plan.kit.name) or 'The kit'}: what the lights do", ""]
    lines.append(
        f"{counted(len(channels), 'channel')} {'moves' if len(channels) == 1 else 'move'}. Levels are shares of light, so of duty: half the "
        "light is half the duty. What is even to the eye goes by lightness: duty = ((p + 0.16)/1.16)³ of a perceived level p, p/9.03 below 0.08."
    )
    lines += [
        "",
        "## Outputs",
        "",
        "| board | output | channel | fully on | limit | drive |",
        "|---|---|---|---|---|---|",
    ]
    for o in outputs_of(plan, assessment):
        drive = assessment.catalogue.drives[o.stage].name if o.stage else "the output itself"
        lines.append(
            f"| {in_markdown(board_name(plan, o.board, assessment.catalogue))} | {o.output} | {in_markdown(channel_name(plan, o.channel))} | {format_current(o.full_a)} | "
            f"{format_current(o.limit_a)} | {drive} |"
        )
    left = [c for c in channels if all(o.channel != c for o in outputs_of(plan, assessment))]
    if left:
        lines += ["", "On no output yet: " + ", ".join(in_markdown(channel_name(plan, c)) for c in left) + "."]
    lines += ["", "## Cues", ""]
    for cue in sorted(plan.cues, key=lambda c: c.start_s):
        on = ", ".join(in_markdown(channel_name(plan, c)) for c in cue.channels)
        how = {
            "base": "",
            "modifier": " It multiplies what they do.",
            "mask": " It lets through what they do, or not.",
        }[cue.stack]
        lines.append(
            f"- **{in_markdown(cue.name or pattern_words(cue.does))}**: {pattern_words(cue.does)}, {when_words(cue)}, on {on}.{how}"
        )
    if plan.triggers:
        lines += ["", "## Triggers", ""]
        lines += [f"- **{in_markdown(t.name or t.id)}**: by a {t.by}. In the rehearsal at {', '.join(figure(x) for x in t.at_s) or 'no time'} s." for t in plan.triggers]  # fmt: skip
    timers = [(b, t) for b in plan.boards if (t := timing_of(b)) is not None]
    if timers:
        lines += ["", "## Timers", ""]
        for b, t in timers:
            lines.append(
                f"- {in_markdown(board_name(plan, b.id, assessment.catalogue))}: R1 {format_resistance(b.r1_ohm or 0)}, R2 {format_resistance(b.r2_ohm or 0)}, "
                f"{figure(b.c_uf or 0)} µF: {figure(t.rate_hz)} Hz, on for {t.duty * 100:.0f} %."
            )
    lines += ["", "## Current", ""]
    for f in plan.feeds:
        show, supply = assessment.effects.feeds[f.id], assessment.feeds[f.id]
        hours = f" It lasts {format_hours(supply.hours)}." if supply.is_battery and supply.hours < 1e6 else ""
        lines.append(
            f"- {in_markdown(f.name or supply.name)}: {format_current(show.mean_a)} on average, {format_current(show.peak_a)} at most "
            f"(at {figure(show.peak_s)} s), {format_current(show.full_a)} with all on.{hours}"
        )
    lines += [
        "", "## Care", "",
        "A resistor for each lamp or string stays where it is, whatever drives it. Only certified low-voltage supplies. What flashes between 3 "
        "and 30 times a second can harm photosensitive viewers: keep it small, or slower. A button or reed wants 20 ms of debouncing.",
    ]  # fmt: skip
    return "\n".join(lines) + "\n"

"""A plain C header for any microcontroller: the show as tables of levels, a row a frame, and a lookup that needs no library.

Levels are bytes, 0 dark to 255 full, of light and so of duty. After its last frame the table goes on at ``GWIAZDA_LOOP_FRAME``,
behind what happens once at the start; what goes round in other times than the table jumps there. Triggers are in it when they
were rehearsed.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

import numpy as np

from gwiazda.core.assess.show.outputs import board_name, moving, outputs_of
from gwiazda.core.assess.show.show import length_of
from gwiazda.core.assess.show.words import pattern_words, when_words
from gwiazda.core.assess.states import Assessment
from gwiazda.core.effect.score import Score, levels
from gwiazda.core.errors import PlanError
from gwiazda.core.escaping import in_c_comment
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import channel_name

FRAME_HZ = 50.0
MOST_BYTES = 512 * 1024  # more fits no small controller, and no compiler likes it


def _name(text: str) -> str:
    """A name that C takes."""
    made = re.sub(r"\W+", "_", text, flags=re.ASCII).strip("_").upper()
    return made if made and not made[0].isdigit() else f"C_{made}"


def _unique(names: Iterable[str]) -> list[str]:
    seen: dict[str, int] = {}
    out = []
    for n in names:
        seen[n] = seen.get(n, 0) + 1
        out.append(n if seen[n] == 1 else f"{n}_{seen[n]}")
    return out


def frames_of(score: Score, channels: Sequence[str], seconds: float, hz: float = FRAME_HZ) -> np.ndarray:
    """Levels (frames, channels) as bytes at the middle of each frame's time."""
    t = (np.arange(round(seconds * hz)) + 0.5) / hz
    light, _ = levels(score, t)
    rows = [score.rows[c] for c in channels]
    return np.asarray(np.rint(np.clip(light[rows], 0.0, 1.0) * 255).astype(np.uint8).T)


_FOOT = (
    "};",
    "",
    "/* The frame of a moment; past the end it goes on from GWIAZDA_LOOP_FRAME. */",
    "static inline uint32_t gwiazda_frame(uint32_t ms) {",
    "  uint32_t frame = ms / GWIAZDA_FRAME_MS;",
    "  if (frame >= GWIAZDA_FRAMES)",
    "    frame = GWIAZDA_LOOP_FRAME + (frame - GWIAZDA_FRAMES) % (GWIAZDA_FRAMES - GWIAZDA_LOOP_FRAME);",
    "  return frame;",
    "}",
    "",
    "static inline uint8_t gwiazda_level(uint32_t channel, uint32_t ms) {",
    "  return channel < GWIAZDA_CHANNELS ? gwiazda_levels[gwiazda_frame(ms)][channel] : 0u;",
    "}",
    "",
    "#endif",
)


def c_header(plan: Plan, assessment: Assessment, seconds: float | None = None, hz: float = FRAME_HZ) -> str:
    """The header's text.

    Parameters
    ----------
    seconds : float, optional
        How much of the show goes into the table; to its last cue and a little on where it is left out.

    Raises
    ------
    PlanError
        When nothing moves, or the table would be too large.
    """
    channels = moving(plan)
    if not channels:
        raise PlanError("Header", "nothing moves yet", "a plan with cues")
    length = seconds if seconds is not None else length_of(plan.cues)
    table = frames_of(assessment.effects.score, channels, length, hz)
    if table.size > MOST_BYTES:
        raise PlanError(
            "Header",
            f"{table.size // 1024} kB of tables",
            f"up to {MOST_BYTES // 1024} kB: a shorter show or fewer channels",
        )
    forever = [c for c in plan.cues if c.length_s is None]
    loop = min(max((c.start_s for c in forever), default=0.0), length / 2.0)
    names = _unique(_name(channel_name(plan, c)) for c in channels)
    pins = {o.channel: o for o in outputs_of(plan, assessment)}
    out = [
        f"/* The show of {in_c_comment(plan.kit.name) or 'a kit'}, written by Gwiazda. Levels 0 to 255 of light, a row each {1000 / hz:g} ms.",
        " * Set each output to gwiazda_level(channel, milliseconds since the start) as often as you like.",
        " *",
    ]
    out += _cue_lines(plan)
    out += [" */", "#ifndef GWIAZDA_SHOW_H", "#define GWIAZDA_SHOW_H", "#include <stdint.h>", ""]
    out += [
        f"#define GWIAZDA_CHANNELS {len(channels)}u",
        f"#define GWIAZDA_FRAMES {len(table)}u",
        f"#define GWIAZDA_FRAME_MS {round(1000 / hz)}u",
        f"#define GWIAZDA_LOOP_FRAME {int(loop * hz)}u",
        "",
    ]
    out.append("enum gwiazda_channel {")
    for k, (c, n) in enumerate(zip(channels, names, strict=True)):
        o = pins.get(c)
        where = (
            f"  /* output {o.output} of {in_c_comment(board_name(plan, o.board, assessment.catalogue))} */"
            if o is not None and o.output
            else ""
        )
        out.append(f"  GWIAZDA_{n} = {k},{where}")
    out += ["};", ""]
    out.append("static const uint8_t gwiazda_levels[GWIAZDA_FRAMES][GWIAZDA_CHANNELS] = {")
    out += [f"  {{{','.join(map(str, row))}}}," for row in table.tolist()]
    return "\n".join([*out, *_FOOT]) + "\n"


def _cue_lines(plan: Plan) -> Iterator[str]:
    for cue in plan.cues:
        on = ", ".join(channel_name(plan, c) for c in cue.channels[:6]) + (" …" if len(cue.channels) > 6 else "")
        words = f"{cue.name or 'Cue'}: {pattern_words(cue.does)}; {when_words(cue)}; on {on}."
        yield f" * {in_c_comment(words)}"

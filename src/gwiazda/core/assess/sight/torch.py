"""The torch test set beside the lamps: a torch in the bare part shows what they never will."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.states import Assessment

TORCH_LM = 60.0  # a telephone's lamp or a small torch: house value


class Torch(NamedTuple):
    """A torch in a section beside its own lamps: how many times their light, how many leaks show with them, and how many of those listed it
    would show besides."""

    section: str
    times: float
    with_lamps: int
    only_torch: int


def torch_test(assessment: Assessment, section: str) -> Torch | None:
    """The torch beside a section's lamps; None where none burn.

    Light inside a section is in proportion to what is sent into it, wherever it comes from: to the eye a torch in the same place is so many
    times its lamps, and so are the leaks.
    """
    state = assessment.sections.get(section)
    if state is None or state.flux_lm <= 0:
        return None
    times = TORCH_LM / state.flux_lm
    mine = [x.times for x in assessment.leaks if x.section == section and x.kind != "next door"]
    return Torch(section, times, sum(t >= 1.0 for t in mine), sum(t < 1.0 <= t * times for t in mine))


def torch_words(torch: Torch, name: str) -> str:
    """What to make of it."""
    bright = f"{torch.times:.0f}" if torch.times < 100 else f"{round(torch.times, -1):.0f}"
    more = (
        f"it shows {torch.only_torch} more place{'s' if torch.only_torch != 1 else ''} that the lamps never will"
        if torch.only_torch
        else "a leak that only the torch shows can stay"
    )
    return f"Torch test: one of {TORCH_LM:.0f} lm in {name} is {bright} × its lamps; {more}."

"""Errors that a modeller can act on: where it is, what was found there, what is accepted."""


def printable(text: str) -> str:
    """A text that can be shown and printed anywhere: names of files may be made of bytes that are none."""
    return text.encode("utf-8", "replace").decode("utf-8")


class GwiazdaError(Exception):
    """Base of every error that is shown as one sentence.

    Parameters
    ----------
    where : str
        File, item or field, in the words of the bench ("Lamp deck1.lamp.02, part").
    found : str
        What was found there.
    accepted : str
        What would have been accepted; empty where nothing would.
    """

    def __init__(self, where: str, found: str, accepted: str = "") -> None:
        where, found, accepted = map(printable, (where, found, accepted))
        self.where, self.found, self.accepted = where, found, accepted
        # As a person would say it: what is wrong where, and then what would do.
        tail = f" It takes {accepted}." if accepted else ""
        super().__init__(f"{where}: {found}.{tail}")


class QuantityError(GwiazdaError):
    """A typed value that can't be read as the quantity asked for."""


class PlanError(GwiazdaError):
    """A plan, or a change to one, that contradicts itself or the catalogue."""


class StoppedError(PlanError):
    """Somebody had it stopped."""

    def __init__(self, where: str = "It", found: str = "stopped") -> None:
        super().__init__(where, found)


class GoneError(PlanError):
    """What is asked for is not in the plan, or not any more."""

    def __init__(self, noun: str, item_id: str) -> None:
        super().__init__(f"{noun.capitalize()} {item_id}", "it is not there any more")


class PlanFileError(GwiazdaError):
    """A plan file that can't be read or written."""


class CircuitError(GwiazdaError):
    """A network that has no operating point or can't be understood."""

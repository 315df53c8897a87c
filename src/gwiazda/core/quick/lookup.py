"""Finding a field, a tool, a thing or a chapter by the words that people use for it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Generic, NamedTuple, TypeVar

T = TypeVar("T")

# Words that a question is made of and nothing is called by.
SMALL = frozenset(
    [
        "a",
        "about",
        "all",
        "an",
        "and",
        "are",
        "at",
        "be",
        "can",
        "do",
        "does",
        "for",
        "from",
        "get",
        "go",
        "have",
        "how",
        "i",
        "in",
        "is",
        "it",
        "its",
        "long",
        "me",
        "much",
        "my",
        "of",
        "on",
        "or",
        "set",
        "should",
        "show",
        "so",
        "tell",
        "that",
        "the",
        "them",
        "there",
        "this",
        "to",
        "want",
        "what",
        "when",
        "where",
        "which",
        "why",
        "will",
        "with",
        "you",
        "your",
    ]
)
# What people say, and what it is called here.
SAME: dict[str, str] = {
    "pack": "battery source cells supply", "batteries": "battery source cells", "battery": "source cells supply", "accu": "source cells",
    "last": "run time hours evening", "lasts": "run time hours evening", "life": "run time hours", "led": "lamp", "leds": "lamp",
    "bulb": "lamp", "light": "lamp brightness", "bright": "brightness look", "dim": "brightness look", "paint": "coat colour", "black": "coat skin block",
    "leak": "leak skin seam", "leaks": "leak skin seam", "ohm": "resistor", "ohms": "resistor", "cable": "wire lead", "hole": "passage opening hole",
    "window": "opening pane", "windows": "opening pane", "glass": "glazing pane", "volt": "voltage", "volts": "voltage", "amps": "current",
    "current": "current draw", "print": "sheets export paper", "pdf": "sheets export", "buy": "shopping stock", "shopping": "buy export", "undo": "undo",
    "flicker": "pattern cue", "blink": "pattern cue", "blinking": "pattern cue", "motor": "motor load gears", "hot": "heat warmth", "warm": "heat warmth",
    "broken": "suspect fault reading", "fault": "suspect broken", "scale": "scale kit", "save": "save plan", "photo": "photo picture drawing",
    "drawing": "drawing calibrate", "dusk": "room light", "room": "room light seen", "font": "text size", "dark": "dark", "glue": "glue closed held",
    "fibre": "fibre dot", "fiber": "fibre dot", "seam": "seam", "mirror": "copy other side", "cost": "cost log buy",
}  # fmt: skip


class Entry(NamedTuple, Generic[T]):
    """Something that can be found.

    ``title`` is its name, ``where`` the place it is at, ``words`` what else it is found by, ``target`` what to do with it.
    ``weight`` is added to what it is worth: of two that match alike, the heavier comes first.
    """

    title: str
    where: str
    words: str
    target: T
    weight: float = 0.0


def stems(text: str) -> list[str]:
    """The words of a text as they are compared: small letters, no plural s.

    Parameters
    ----------
    text : str
        Any text.

    Returns
    -------
    list of str
        Its words in order.
    """
    out = []
    for word in re.findall(r"[a-zäöüąćęłńóśżź0-9]+", text.lower()):
        out.append(word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word)
    return out


def _match(wanted: str, words: Sequence[str]) -> float:
    """How well a word is among others: 1 for the very word, less for one that begins so."""
    if wanted in words:
        return 1.0
    return 0.7 if len(wanted) > 1 and any(w.startswith(wanted) for w in words) else 0.0


def worth(query: str, entry: Entry[T]) -> float:
    """What an entry is worth to a question: each of its words counts where it is found, most in the title.

    Parameters
    ----------
    query : str
        What was typed.
    entry : Entry
        What may be meant.

    Returns
    -------
    float
        0 where nothing matches; one whose title holds every word is worth over 3 for each of them.
    """
    asked = stems(" ".join(w for w in re.findall(r"\S+", query.lower()) if w.strip("?.,!") not in SMALL)) or stems(
        query
    )
    title, words = stems(entry.title), stems(f"{entry.where} {entry.words}")
    total = 0.0
    for word in asked:
        also = stems(SAME.get(word, "") + " " + SAME.get(f"{word}s", ""))
        total += max(
            3.0 * _match(word, title),
            1.0 * _match(word, words),
            max((1.6 * _match(w, title) for w in also), default=0.0),
            max((0.5 * _match(w, words) for w in also), default=0.0),
        )
    if not total:
        return 0.0
    # A title that says just this comes before one that says more.
    return total + 0.6 * len(asked) / max(len(title), len(asked)) + entry.weight


def ranked(query: str, entries: Iterable[Entry[T]], most: int = 9) -> list[Entry[T]]:
    """What a question most likely means, the best first.

    Parameters
    ----------
    query : str
        What was typed: a word or a question.
    entries : iterable of Entry
        All that can be found.
    most : int
        How many at most.

    Returns
    -------
    list of Entry
        Those that match, without those worth less than a third of the best.
    """
    rated = [(worth(query, e), -k, e) for k, e in enumerate(entries)]
    best = sorted((r for r in rated if r[0] > 0.0), key=lambda r: r[:2], reverse=True)
    return [e for value, _, e in best[:most] if value >= best[0][0] / 3.0]

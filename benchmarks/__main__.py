"""``python -m benchmarks [circuits night start …] [--record]`` prints every measure, each group in a process of its own.

So none is warmed by another. Beside them stands the machine's own speed (a fixed loop), so that runs of other days and machines compare;
``--record`` writes it to ``benchmarks/results.md`` beside what was measured at the last release (``release.md``); other groups
stay as they were.
"""

from __future__ import annotations

import importlib
import os
import re
import subprocess
import sys
import tempfile
import time
from collections import Counter
from datetime import date
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
GROUPS = ("circuits", "wiring", "looms", "light", "start", "night", "effects", "workshop", "shells", "round", "large")
RESULTS, RELEASE = (Path(__file__).with_name(f"{name}.md") for name in ("results", "release"))


def machine_ms() -> float:
    """Milliseconds of a fixed loop, the median of nine: half plain Python, half a product of matrices."""
    import numpy as np

    a = np.random.default_rng(1).random((400, 400))
    took = []
    for _ in range(9):
        start = time.perf_counter()
        total = 0
        for i in range(300_000):
            total += i * i % 7
        for _ in range(4):
            a @ a
        took.append((time.perf_counter() - start) * 1e3)
    return sorted(took)[4]


def run_here(name: str) -> None:
    """One group, in this process."""
    os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp()
    from gwiazda.desktop.shell.application import make_application

    application = make_application()
    application.setProperty("keep", True)
    importlib.import_module(f"benchmarks.{name}").run(lambda text: print(text, flush=True))


def _recorded(where: Path) -> dict[str, str]:
    """What was measured before, by group: a run of some groups leaves the others as they are."""
    if not where.exists():
        return {}
    parts = where.read_text().split("\n## ")[1:]
    return {head: body.strip() for head, _, body in (part.partition("\n") for part in parts)}


def _parts(line: str) -> tuple[str, str, str]:
    """A measure's words, its figures, and what is asked, of a line as it was said."""
    said, _, asked = line.strip().removeprefix("- ").partition("(asked")
    said = said.strip()
    for mark, cut in (("   ", str.partition), (": ", str.rpartition)):
        if mark in said:
            words, _, found = cut(said, mark)
            break
    else:
        first = re.search(r"\d", said)
        at = first.start() if first else len(said)
        words, found = said[:at], said[at:]
    return words.strip(), found.strip(), asked.lstrip(": ").partition(")")[0].partition(";")[0]


def _keyed(lines: list[str]) -> list[tuple[tuple[str, int], tuple[str, str, str]]]:
    """Lines by what they are known by: their words without figures, and the how-manieth of these words."""
    seen: Counter[str] = Counter()
    out = []
    for parts in map(_parts, lines):
        word = key(parts[0])
        out.append(((word, seen[word]), parts))
        seen[word] += 1
    return out


def _table(lines: list[str], released: str) -> list[str]:
    """A group's measures as a table, those at the last release beside."""
    before = {k: found for k, (_, found, _) in _keyed([x for x in released.splitlines() if x.startswith("- ")])}
    rows = ["| what | asked | at the release | now |", "|---|---|---|---|"]
    rows += [f"| {words} | {asked} | {before.get(k, '')} | {found} |" for k, (words, found, asked) in _keyed(lines)]
    return rows


def key(words: str) -> str:
    """Words by which a measure is known again, whatever figures stand in them."""
    return re.sub(r"[\d.,]+", "#", words.removeprefix("- ").strip())


def main(arguments: list[str]) -> int:
    """Run the groups asked for, or all of them."""
    if arguments[:1] == ["--here"]:
        run_here(arguments[1])
        return 0
    record = "--record" in arguments
    names = [a for a in arguments if a != "--record"] or list(GROUPS)
    unknown = [name for name in names if name not in GROUPS]
    if unknown:
        print(f"There is no group “{unknown[0]}”. There are {', '.join(GROUPS)}.", file=sys.stderr)
        return 2
    said, released = _recorded(RESULTS) if record else {}, _recorded(RELEASE)
    failed = 0
    for name in names:
        speed = machine_ms()
        print(
            f"{name}, the machine's own speed: {speed:.0f} ms for a fixed loop, {os.cpu_count()} processors", flush=True
        )
        process = subprocess.Popen(
            [sys.executable, "-m", "benchmarks", "--here", name], stdout=subprocess.PIPE, text=True
        )
        assert process.stdout is not None
        lines = []
        for line in process.stdout:
            print(line, end="", flush=True)
            lines.append(line.strip())
        old = released.get(name, "")
        head = f"{date.today():%Y-%m-%d}, the machine's own speed {speed:.0f} ms, {os.cpu_count()} processors; then: {old.partition(chr(10))[0] or 'not measured'}"
        said[name] = "\n".join([head, "", *_table(lines, old)])
        failed |= process.wait()
    if record:
        parts = [f"## {name}\n\n{said[name]}\n" for name in GROUPS if name in said]
        RESULTS.write_text(
            "# What was measured last, beside the last release\n\nThe machine's own speed swings by half from hour to hour: compare figures with it.\n\n"
            + "\n".join(parts)
        )
    return failed


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))

"""Small wrong changes over ``src``, by seed, and whether the nearest tests notice: ``python tools/mutants.py 200 --seed 1``.

Each change is made in a copy of the tree: a comparison turned, a sign changed, a figure made larger, a branch taken the other way, nothing
returned. The nearest tests are the files that import the module, then those that import what imports it.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
TURNED = {ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq}
SIGNS = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}
FILES, DEEP = 10, 3  # test files that are run, steps of imports that are followed
TIMEOUT_S = 300


def spots(tree: ast.Module) -> Iterator[tuple[ast.AST, str]]:
    """Places where something can be changed; annotations and docstrings are none."""
    for node in ast.walk(tree):
        for child in ast.iter_child_nodes(node):
            child.parent = node  # type: ignore[attr-defined]
    for node in ast.walk(tree):
        if any(_is_annotation(node)):
            continue
        if isinstance(node, ast.Compare) and type(node.ops[0]) in TURNED:
            yield node, "compare"
        elif (
            isinstance(node, ast.BinOp)
            and type(node.op) in SIGNS
            and not isinstance(node.left, ast.Constant | ast.JoinedStr)
        ):
            yield node, "sign"
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.value:
            yield node, "constant"
        elif isinstance(node, ast.If | ast.IfExp):
            yield node, "branch"
        elif isinstance(node, ast.Return) and node.value is not None:
            yield node, "return"


def _is_annotation(node: ast.AST) -> Iterator[bool]:
    while (parent := getattr(node, "parent", None)) is not None:
        yield node in (getattr(parent, "annotation", None), getattr(parent, "returns", None))
        yield (
            isinstance(parent, ast.Subscript)
            and node is parent.slice
            and isinstance(parent.value, ast.Name)
            and parent.value.id == "Annotated"
        )
        node = parent


def change(node: ast.AST, kind: str) -> None:
    """Make it wrong."""
    if isinstance(node, ast.Compare):
        node.ops[0] = TURNED[type(node.ops[0])]()
    elif isinstance(node, ast.BinOp):
        node.op = SIGNS[type(node.op)]()
    elif isinstance(node, ast.Constant):
        node.value = node.value + 1 if isinstance(node.value, int) else node.value * 1.5
    elif isinstance(node, ast.If | ast.IfExp):
        node.test = ast.UnaryOp(ast.Not(), node.test)
    elif isinstance(node, ast.Return):
        node.value = ast.Constant(None)


def imports() -> dict[str, set[str]]:
    """Which modules and test files import which modules."""
    found: dict[str, set[str]] = {}
    for path in [*(ROOT / "src").rglob("*.py"), *(ROOT / "tests").rglob("*.py")]:
        names: set[str] = set()
        for m in re.finditer(
            r"^\s*from (gwiazda[\w.]*) import ([^\n#]+|\([^)]*\))|^\s*import (gwiazda[\w.]*)", path.read_text(), re.M
        ):
            base = m[1] or m[3]
            names.add(base)
            names |= {f"{base}.{w}" for w in re.findall(r"\w+", m[2] or "")}
        found[str(path.relative_to(ROOT))] = names
    return found


def dotted(path: Path) -> str:
    return ".".join(path.relative_to(ROOT / "src").with_suffix("").parts).removesuffix(".__init__")


def nearest(module: Path, graph: dict[str, set[str]]) -> list[str]:
    """Test files by how few imports lie between them and a module, those that import little first."""
    near, seen, tests = {dotted(module)}, set[str](), list[str]()
    for _ in range(DEEP):
        users = [p for p, names in graph.items() if names & near]
        tests += sorted(
            (p for p in users if Path(p).name.startswith("test_") and p not in tests), key=lambda p: (len(graph[p]), p)
        )
        seen |= near
        near = {dotted(ROOT / p) for p in users if p.startswith("src")} - seen
        if len(tests) >= FILES or not near:
            break
    return tests[:FILES]


def main() -> int:
    """Make so many changes one after the other; say each that no test noticed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("count", type=int)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--part", default="core", help="folder of src/gwiazda that is changed")
    asked = parser.parse_args()
    files = sorted((ROOT / "src/gwiazda" / asked.part).rglob("*.py"))
    weights = [len(p.read_text()) for p in files]
    rng, graph = random.Random(asked.seed), imports()
    copy = Path(tempfile.mkdtemp(prefix="mutants-"))
    shutil.copytree(ROOT / "src", copy / "src", ignore=shutil.ignore_patterns("__pycache__"))
    for name in ("tests", "docs", "tools"):
        shutil.copytree(ROOT / name, copy / name, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", copy)
    made = killed = 0
    while made < asked.count:
        path = rng.choices(files, weights)[0]
        source = path.read_text()
        tree = ast.parse(source)
        places = list(spots(tree))
        if not places:
            continue
        node, kind = rng.choice(places)
        line = getattr(node, "lineno", 0)
        change(node, kind)
        made += 1
        target = copy / path.relative_to(ROOT)
        target.write_text(ast.unparse(ast.fix_missing_locations(tree)))
        tests = nearest(path, graph)
        run = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *tests]
        where = {
            **os.environ,
            "PYTHONPATH": str(copy / "src"),
            "QT_QPA_PLATFORM": "offscreen",
            "PYTHONDONTWRITEBYTECODE": "1",
        }
        try:
            noticed = (
                not tests
                or subprocess.run(
                    run, cwd=copy, env=where, capture_output=True, timeout=TIMEOUT_S, check=False
                ).returncode
                != 0
            )
        except subprocess.TimeoutExpired:
            noticed = True
        noticed = noticed and bool(tests)
        killed += noticed
        target.write_text(source)
        said = f"{path.relative_to(ROOT)}:{line}  {kind}  {source.splitlines()[line - 1].strip()[:110]}"
        print(f"{made:4d}  {'killed  ' if noticed else 'survived'}  {said}", flush=True)
    print(f"{killed} of {made} killed, {killed / made * 100:.0f} %")
    shutil.rmtree(copy)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())

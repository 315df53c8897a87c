"""What holds the house simple and no type checker sees."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

import gwiazda

ROOT = Path(gwiazda.__file__).parent
FILES = sorted(ROOT.rglob("*.py"))
LONGEST = 70  # lines of a function, its docstring not counted
MOST_TAKEN = 7
PHYSICS = ("light", "colour", "radiosity", "render", "circuit", "power", "fibre", "loom", "space", "carrier", "effect", "schedule")  # fmt: skip


@pytest.fixture(scope="module")
def trees() -> dict[str, ast.Module]:
    return {str(path.relative_to(ROOT)): ast.parse(path.read_text()) for path in FILES}


def _lines(function: ast.FunctionDef) -> int:
    first = function.body[0]
    told = first.end_lineno - first.lineno + 1 if ast.get_docstring(function) is not None else 0
    return function.end_lineno - function.lineno + 1 - told


def test_no_function_needs_scrolling(trees):
    long = {
        f"{name}:{node.name}": length
        for name, tree in trees.items()
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef) and (length := _lines(node)) > LONGEST
    }
    assert long == {}


def test_what_travels_together_is_gathered(trees):
    """No call with more than seven things in it, but into compiled loops, which take plain arrays."""
    many = {
        f"{name}:{node.name}": count
        for name, tree in trees.items()
        if not name.endswith("kernel.py")
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef)
        and (
            count := sum(
                a.arg not in ("self", "cls") for a in (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs)
            )
        )
        > MOST_TAKEN
    }
    assert many == {}


def _public(tree: ast.Module):
    """Functions and methods that others call."""
    for node in tree.body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            yield node
        elif isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            yield from (m for m in node.body if isinstance(m, ast.FunctionDef) and not m.name.startswith("_"))


@pytest.mark.parametrize("package", PHYSICS)
def test_physics_says_what_it_takes_and_gives(trees, package):
    """Parameters by name and in order, and what comes out, as the scientific packages do."""
    silent = []
    for name, tree in trees.items():
        if not name.startswith(f"core/{package}/"):
            continue
        for node in _public(tree):
            taken = [a.arg for a in (*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs)]
            taken = [a for a in taken if a not in ("self", "cls")]
            text = ast.get_docstring(node) or ""
            section = re.search(r"^Parameters\n-+\n(.*?)(?=^\w+\n-+$|\Z)", text, re.M | re.S)
            heads = re.findall(r"^([\w, ]+) : ", section.group(1), re.M) if section else []
            told = [word.strip() for head in heads for word in head.split(",")]
            gives = node.returns is not None and ast.unparse(node.returns) != "None"
            if taken and (told != taken or (gives and not re.search(r"^Returns\n-+$", text, re.M))):
                silent.append(f"{name}:{node.name} takes {taken}, tells {told}")
    assert silent == []


def test_there_is_one_memo():
    """What is kept is made fast and bounded there, and nowhere else."""
    others = [
        str(path.relative_to(ROOT))
        for path in FILES
        if path.name != "memo.py" and re.search(r"\blru_cache\b|@cache\b|functools\.cache\b", path.read_text())
    ]
    assert others == []


def test_no_module_is_named_by_a_string(trees):
    """A rename and the type checker would not see it."""
    named = [
        f"{name}:{node.lineno}"
        for name, tree in trees.items()
        for node in ast.walk(tree)
        if isinstance(node, ast.Constant)
        and isinstance(node.value, str)
        and re.fullmatch(r"gwiazda\.(core|desktop)[\w.:]*", node.value)
    ]
    assert named == []


def test_the_tests_mirror_the_house():
    """A folder of tests stands for a folder of the program."""
    tests = Path(__file__).parents[1]
    folders = {
        p.parent.relative_to(tests) for p in (*tests.glob("core/**/test_*.py"), *tests.glob("desktop/**/test_*.py"))
    }
    assert [str(f) for f in folders if not (ROOT / f).is_dir()] == []

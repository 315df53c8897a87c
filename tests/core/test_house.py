"""What holds the house simple and no type checker sees."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

import gwiazda

ROOT = Path(gwiazda.__file__).parent
FILES = sorted(ROOT.rglob("*.py"))
LONGEST = 70  # lines of a function


@pytest.fixture(scope="module")
def trees() -> dict[str, ast.Module]:
    return {str(path.relative_to(ROOT)): ast.parse(path.read_text()) for path in FILES}


def test_no_function_needs_scrolling(trees):
    long = {
        f"{name}:{node.name}": length
        for name, tree in trees.items()
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef) and (length := node.end_lineno - node.lineno + 1) > LONGEST
    }
    assert long == {}


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

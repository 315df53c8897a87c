"""Fixtures for all tests: settings and autosaves go to a folder of the test's own."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
_scratch = tempfile.mkdtemp(prefix="gwiazda-tests-")
atexit.register(shutil.rmtree, _scratch, ignore_errors=True)
for _name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"):
    os.environ[_name] = _scratch

import pytest  # noqa: E402
from hypothesis import settings  # noqa: E402

from decks import deck_plan  # noqa: E402
from gwiazda.core.plan import storage  # noqa: E402
from gwiazda.core.plan.model import Plan  # noqa: E402
from gwiazda.demos import path_of  # noqa: E402

# Machines differ in speed: a test says nothing of time.
settings.register_profile("suite", deadline=None, max_examples=60, derandomize=True)
settings.load_profile("suite")


@pytest.fixture(autouse=True)
def own_state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


@pytest.fixture(scope="session")
def demo_file() -> storage.PlanFile:
    return storage.load(path_of())


@pytest.fixture
def demo(demo_file: storage.PlanFile) -> Plan:
    return demo_file.plan


@pytest.fixture
def deck() -> Plan:
    return deck_plan()

"""Reading and writing: links, modes and names stay, pipes keep nobody waiting, and nothing that is read-only is replaced."""

from __future__ import annotations

import os
import stat
import subprocess
import sys

import pytest

from gwiazda.core.errors import PlanFileError
from gwiazda.core.files import fingerprint, free_name, read_plain, write_atomically
from gwiazda.core.plan.storage import PlanFile, load, save


def test_saving_keeps_a_link_and_the_mode_of_what_it_leads_to(tmp_path, deck):
    real, link = tmp_path / "shelf" / "deck.gwiazda", tmp_path / "deck.gwiazda"
    real.parent.mkdir()
    save(PlanFile(deck), real)
    real.chmod(0o640)
    link.symlink_to(real)
    write_atomically(link, b"new")
    assert link.is_symlink() and real.read_bytes() == b"new"
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    assert [p.name for p in real.parent.iterdir()] == ["deck.gwiazda"]


@pytest.mark.skipif(os.geteuid() != 0, reason="only root may give files away")
def test_saving_keeps_the_owner(tmp_path):
    path = tmp_path / "a"
    path.write_bytes(b"old")
    os.chown(path, 12345, 54321)
    write_atomically(path, b"new")
    assert (path.stat().st_uid, path.stat().st_gid, path.read_bytes()) == (12345, 54321, b"new")


def test_what_is_read_only_is_refused_and_stays(tmp_path):
    path = tmp_path / "mine.gwiazda"
    path.write_bytes(b"old")
    path.chmod(0o444)
    with pytest.raises(PlanFileError, match=r"mine\.gwiazda: is read-only\. It takes another name"):
        write_atomically(path, b"new")
    assert path.read_bytes() == b"old"


@pytest.mark.parametrize("name", ["n" * 240, "ż" * 120, os.fsdecode(b"deck-\xff\xfe.gwiazda")])
def test_long_names_and_names_that_are_no_text(tmp_path, deck, name):
    path = tmp_path / name
    write_atomically(path, b"one")
    write_atomically(path, b"two")
    assert path.read_bytes() == b"two" and len(list(tmp_path.iterdir())) == 1
    save(PlanFile(deck), path)
    assert load(path).plan == deck
    path.write_bytes(b"broken")
    with pytest.raises(PlanFileError) as told:
        load(path)
    str(told.value).encode()


@pytest.mark.parametrize("what", ["pipe", "folder", "missing"])
def test_what_is_no_plain_file_is_refused_at_once(tmp_path, what):
    path = tmp_path / "plan.gwiazda"
    if what == "pipe":
        os.mkfifo(path)
    elif what == "folder":
        path.mkdir()
    words = {"pipe": "a pipe or a device", "folder": "is a folder", "missing": "No such file"}[what]
    for read in (load, lambda p: read_plain(p, 100)):
        with pytest.raises(PlanFileError, match=words):
            read(path)
    assert fingerprint(path) is None
    if what != "missing":
        with pytest.raises(PlanFileError):
            write_atomically(path, b"x")


def test_a_name_that_nothing_has_yet(tmp_path):
    path = tmp_path / "deck.gwiazda"
    assert free_name(path, "other").name == "deck.other-1.gwiazda"
    (tmp_path / "deck.other-1.gwiazda").write_bytes(b"")
    assert free_name(path, "other").name == "deck.other-2.gwiazda"


@pytest.mark.parametrize("words", [["check"], ["quick", "3 white on 9 V"]])
def test_a_terminal_that_knows_ascii_only(tmp_path, deck, words):
    """What can't be written there is a question mark, and no traceback."""
    if words == ["check"]:
        path = tmp_path / "deck.gwiazda"
        save(PlanFile(deck), path)
        words = ["check", str(path)]
    plain = {**os.environ, "LC_ALL": "C", "PYTHONIOENCODING": "ascii", "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0"}
    done = subprocess.run(
        [sys.executable, "-m", "gwiazda", *words], capture_output=True, env=plain, timeout=60, check=False
    )
    assert done.returncode in (0, 1) and b"Traceback" not in done.stderr and b"?" in done.stdout

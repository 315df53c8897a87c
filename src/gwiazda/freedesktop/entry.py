"""Put Gwiazda into the desktop's menu for this user, and take it out: an installation in an environment of its own is not looked at
by desktops."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

from gwiazda.core.files import make_folder, write_atomically

HERE = Path(__file__).parent
NAME = "io.github.gwiazda.Gwiazda"
PLACES = {
    f"{NAME}.desktop": f"applications/{NAME}.desktop",
    f"{NAME}-mime.xml": f"mime/packages/{NAME}.xml",
    f"{NAME}.svg": f"icons/hicolor/scalable/apps/{NAME}.svg",
    f"{NAME}.png": f"icons/hicolor/256x256/apps/{NAME}.png",
    f"{NAME}.metainfo.xml": f"metainfo/{NAME}.metainfo.xml",
    "gwiazda.1": "man/man1/gwiazda.1",
    "gwiazda.bash": "bash-completion/completions/gwiazda",
}
INDEXES = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))


def _data_home() -> Path:
    """Where the user's own desktop files are (XDG base directories)."""
    own = os.environ.get("XDG_DATA_HOME", "")
    return Path(own) if own.startswith("/") else Path.home() / ".local/share"


def _command() -> str:
    """This program as the desktop can start it, whatever its search path is; quoted as desktop entries are."""
    found = shutil.which("gwiazda") or str(Path(sys.executable).parent / "gwiazda")
    quoted = "".join(f"\\\\{c}" if c in '"`$\\' else c for c in str(Path(found).absolute())).replace("%", "%%")
    return f'"{quoted}"' if any(c in quoted for c in " \t\"'\\><~|&;$*?#()`") else quoted


def _indexed(home: Path) -> None:
    for tool, folder in INDEXES:
        if shutil.which(tool) and (home / folder).is_dir():
            subprocess.run([tool, str(home / folder)], check=False, capture_output=True)


def install() -> list[Path]:
    """Write all of it, and have the desktop's indexes made anew; returns what was written. Raises PlanFileError where it can't be."""
    home, out = _data_home(), []
    for name, place in PLACES.items():
        data = (HERE / name).read_bytes()
        if name.endswith(".desktop"):
            data = data.replace(b"Exec=gwiazda ", f"Exec={_command()} ".encode())
        make_folder((home / place).parent)
        write_atomically(home / place, data)
        out.append(home / place)
    _indexed(home)
    return out


def remove() -> list[Path]:
    """Take away what ``install`` wrote; returns what was there."""
    home = _data_home()
    out = [home / place for place in PLACES.values() if (home / place).exists()]
    for path in out:
        path.unlink()
    _indexed(home)
    return out

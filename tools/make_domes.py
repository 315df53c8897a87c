"""Trace domed lamps and write ``core/fibre/dome_table.py``: the share of the beam within each radius at the top."""

from __future__ import annotations

from pathlib import Path

OUT = Path(__file__).parents[1] / "src/gwiazda/core/fibre/dome_table.py"
FACES = (1.8, 3.0, 5.0, 8.0, 10.0)
ANGLES = (5.0, 7.5, 10.0, 12.5, 15.0, 20.0, 25.0, 30.0, 37.5, 45.0)
RADII = (0.0, 0.02, 0.04, 0.06, 0.08, 0.1, 0.13, 0.16, 0.2, 0.25, 0.3, 0.35, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.2)

if __name__ == "__main__":
    head = (
        '"""Domed lamps traced: share of the beam within ``RADII`` (of the dome\'s radius) and a fibre\'s acceptance.\n\n'
        "By the dome (mm) and the half angle of the beam (degrees); written by ``tools/make_domes.py``, not by hand.\n"
        '"""\n\n# fmt: off\n'
    )
    numbers = f"FACES = {FACES}\nHALF_ANGLES_DEG = {ANGLES}\nRADII = {RADII}\n"
    OUT.write_text(head + numbers + "SHARES: tuple[tuple[tuple[float, ...], ...], ...] = ()\n")
    from gwiazda.core.fibre.dome import profile

    rows = []
    for face in FACES:
        rows.append("    (")
        for angle in ANGLES:
            shares = ", ".join(f"{x:.5f}" for x in profile(face, angle, 1 << 21))
            rows.append(f"        ({shares}),")
            print(face, angle, shares)
        rows.append("    ),")
    OUT.write_text(head + numbers + "SHARES = (\n" + "\n".join(rows) + "\n)\n# fmt: on\n")

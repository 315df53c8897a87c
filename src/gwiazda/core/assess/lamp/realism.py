"""True to scale: full-size equivalents, and what a light or a window should give the eye.

Sources
-------
Intensities of real lights, with the rules they come from, are in the catalogue's kinds of lights. What is seen of a point is in ``light.visibility``.
"""

from __future__ import annotations

from gwiazda.core.assess.aims import NIGHT, PANE_TIMES, Looks, looks_in
from gwiazda.core.light.visibility import CLEARLY, point_threshold_lx
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import KitKind, Plan
from gwiazda.core.render.tone import hull_luminance

UNKNOWN_HULL = 0.5  # reflectance of a material nobody knows

# Diameter (m) of the real light's lens, and from where on a model's looks out of scale (house values).
REAL_LIGHT_M: dict[KitKind, tuple[float, float]] = {
    "ship": (0.30, 0.60), "aircraft": (0.12, 0.30), "vehicle": (0.15, 0.30), "spacecraft": (0.40, 0.90), "other": (0.30, 0.60),
}  # fmt: skip


def hull_of(catalogue: Catalogue, plan: Plan) -> float:
    """Luminance (cd/m²) of the bare hull in the room the model is for."""
    material = catalogue.materials.get(plan.kit.material)
    return hull_luminance(plan.room.lux, material.reflectance if material else UNKNOWN_HULL)


def looks_of(catalogue: Catalogue, plan: Plan) -> Looks:
    """What the words for a look mean in a plan; as its assessment says too."""
    return looks_in(plan.room, hull_of(catalogue, plan), catalogue.brightness_scale)


def model_mcd(real_cd: float, scale: float) -> float:
    """Intensity (mcd) that gives the eye on the model what the real one gives from the scaled distance: I/scale²."""
    return real_cd / scale**2 * 1e3


def visible_mcd(background_cd_m2: float, distance_m: float) -> float:
    """Intensity (mcd) of a point that is clearly seen in a room."""
    return CLEARLY * point_threshold_lx(background_cd_m2) * distance_m**2 * 1e3


def visible_cd_m2(hull_cd_m2: float) -> float:
    """Luminance (cd/m²) of a pane that is clearly lit in a room: 5 × the hull's, and never under barely lit."""
    return max(PANE_TIMES["normal"] * hull_cd_m2, NIGHT.cd_m2["barely"])


def full_size_m(size_mm: float, scale: float) -> float:
    """What a size on the model would be on the prototype."""
    return size_mm * scale / 1000.0

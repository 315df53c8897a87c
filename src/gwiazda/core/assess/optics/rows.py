"""Rows of panes as a few sources: which of them are taken together."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
APART_MM, MOST = 50.0, 3  # a source for each such length of a row, so many at the most


def parted(at: Array) -> list[npt.NDArray[np.intp]]:
    """Places (N, 3) of a row's panes, mm, in groups along its longest way: the numbers of each."""
    along = int(np.ptp(at, axis=0).argmax())
    count = int(np.clip(np.ceil(np.ptp(at[:, along]) / APART_MM), 1, MOST))
    edges = np.linspace(at[:, along].min() - 1e-6, at[:, along].max() + 1e-6, count + 1)
    group = np.clip(np.searchsorted(edges, at[:, along]) - 1, 0, count - 1)
    return [np.flatnonzero(group == g) for g in range(count) if (group == g).any()]

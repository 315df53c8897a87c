"""The night picture: light adds, so each channel has a basis picture and a frame is their weighted sum.

Channels whose weight stands still are summed once into the base; the moving ones stay as layers cropped to
where they can be seen. Drawn by the compiled kernel once it is loaded, by NumPy until then.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

Array32 = npt.NDArray[np.float32]
Bytes = npt.NDArray[np.uint8]

QUIET_FRAMES = 30  # a channel that has not changed for this long is summed into the base again


@dataclass(frozen=True)
class Layer:
    """Luminance (cd/m²) of one colour of one channel at weight 1: ``pixels`` (h, w) at (y0, x0), ``rgb`` linear."""

    channel: str
    rgb: tuple[float, float, float]
    y0: int
    x0: int
    pixels: Array32


def cropped(channel: str, rgb: tuple[float, float, float], picture: Array32, least: float, y0: int = 0, x0: int = 0) -> Layer | None:
    """A layer without the margins where ``picture`` stays below ``least``; None when it does everywhere."""
    rows = np.flatnonzero(picture.max(axis=1, initial=0.0) > least)
    if not len(rows):
        return None
    top, bottom = int(rows[0]), int(rows[-1]) + 1
    columns = np.flatnonzero(picture[top:bottom].max(axis=0) > least)
    left, right = int(columns[0]), int(columns[-1]) + 1
    return Layer(channel, rgb, y0 + top, x0 + left, np.ascontiguousarray(picture[top:bottom, left:right]))


_kernel: Callable[..., None] | None = None
_pool: ThreadPoolExecutor | None = None


def load_kernel() -> None:
    """Import the compiled kernel (slow the first time); pictures use it from their next frame on."""
    global _kernel, _pool
    from gwiazda.core.light.kernel import compose_rows

    if _pool is None:
        _pool = ThreadPoolExecutor(max_workers=min(4, os.cpu_count() or 1), thread_name_prefix="night")
    _kernel = compose_rows


def kernel_loaded() -> bool:
    return _kernel is not None


class NightPicture:
    """Basis layers over a base picture.

    Parameters
    ----------
    hull : (H, W) or (3, H, W) float32 array
        Luminance (cd/m²) of what the room's light shows.
    layers : sequence of Layer
    """

    def __init__(self, hull: Array32, layers: Sequence[Layer] = (), weights: Mapping[str, float] | None = None) -> None:
        planes = np.broadcast_to(hull, (3, *hull.shape[-2:])) if hull.ndim == 2 else hull
        self.base = np.ascontiguousarray(planes, dtype=np.float32).copy()
        self.height, self.width = self.base.shape[1:]
        self._layers: dict[str, list[Layer]] = {}
        self._weights: dict[str, float] = {}
        self._moving: dict[str, int] = {}
        self._packed: tuple[Array32, npt.NDArray[np.int64], Array32, list[str]] | None = None
        self.set_layers(layers, weights)

    @property
    def channels(self) -> tuple[str, ...]:
        return tuple(self._layers)

    @property
    def layer_bytes(self) -> int:
        return sum(layer.pixels.nbytes for group in self._layers.values() for layer in group)

    def _add(self, layer: Layer, factor: float) -> None:
        h, w = layer.pixels.shape
        for plane, c in enumerate(layer.rgb):
            if c * factor:
                self.base[plane, layer.y0 : layer.y0 + h, layer.x0 : layer.x0 + w] += np.float32(c * factor) * layer.pixels

    def set_layers(self, layers: Iterable[Layer], weights: Mapping[str, float] | None = None) -> None:
        """Put whole channels in place; a channel that is there already is replaced by its difference."""
        groups: dict[str, list[Layer]] = {}
        for layer in layers:
            groups.setdefault(layer.channel, []).append(layer)
        for channel, group in groups.items():
            self.remove(channel)
            self._layers[channel] = group
            self._weights[channel] = 1.0 if weights is None else weights.get(channel, 1.0)
            for layer in group:
                self._add(layer, self._weights[channel])

    def remove(self, channel: str) -> None:
        """Take a channel out of the picture."""
        group = self._layers.pop(channel, [])
        weight = self._weights.pop(channel, 0.0)
        if self._moving.pop(channel, None) is None:
            for layer in group:
                self._add(layer, -weight)
            # Differences of float32 can leave a trace below zero, whose bits would index a wrong entry.
            if group:
                np.maximum(self.base, 0.0, out=self.base)
        self._packed = None

    def _settle(self, weights: Mapping[str, float]) -> None:
        """Move channels between the base and the moving set according to what changes."""
        for channel, group in self._layers.items():
            new = weights.get(channel, self._weights[channel])
            old = self._weights[channel]
            if new != old:
                if channel not in self._moving:
                    for layer in group:
                        self._add(layer, -old)
                    np.maximum(self.base, 0.0, out=self.base)
                    self._packed = None
                self._moving[channel] = 0
                self._weights[channel] = new
            elif channel in self._moving:
                self._moving[channel] += 1
                if self._moving[channel] > QUIET_FRAMES:
                    del self._moving[channel]
                    for layer in group:
                        self._add(layer, new)
                    self._packed = None

    def _pack(self) -> tuple[Array32, npt.NDArray[np.int64], Array32, list[str]]:
        if self._packed is None:
            layers = [layer for channel in self._moving for layer in self._layers[channel]]
            boxes = np.zeros((len(layers), 5), np.int64)
            at = 0
            for i, layer in enumerate(layers):
                boxes[i] = (at, layer.y0, layer.x0, *layer.pixels.shape)
                at += layer.pixels.size
            data = np.concatenate([layer.pixels.ravel() for layer in layers]) if layers else np.zeros(0, np.float32)
            rgb = np.array([layer.rgb for layer in layers], np.float32).reshape(-1, 3)
            self._packed = (data, boxes, rgb, [layer.channel for layer in layers])
        return self._packed

    def frame(self, table: Bytes, weights: Mapping[str, float] | None = None, out: Bytes | None = None) -> Bytes:
        """One frame.

        Parameters
        ----------
        table : (65536,) uint8 array
            Screen value of each luminance; see ``tone.screen_table``.
        weights : mapping, optional
            Weight of each channel (0 dark, 1 as wired); channels not named keep theirs.
        out : (H, W, 4) uint8 array, optional

        Returns
        -------
        (H, W, 4) uint8 array, B G R 255.
        """
        self._settle(weights or {})
        data, boxes, rgb, owners = self._pack()
        share = np.array([self._weights[c] for c in owners], np.float32)
        coefficients = rgb * share[:, None]
        if out is None:
            out = np.empty((self.height, self.width, 4), np.uint8)
        if _kernel is not None and _pool is not None:
            bands = min(_pool._max_workers, max(1, self.height // 64))
            edges = np.linspace(0, self.height, bands + 1).astype(int)
            jobs: list[Any] = [
                _pool.submit(_kernel, self.base, data, boxes, coefficients, table, out, int(a), int(b))
                for a, b in zip(edges[1:-1], edges[2:], strict=True)
            ]
            _kernel(self.base, data, boxes, coefficients, table, out, 0, int(edges[1]))
            for job in jobs:
                job.result()
            return out
        return self._frame_numpy(table, data, boxes, coefficients, out)

    def _frame_numpy(self, table: Bytes, data: Array32, boxes: npt.NDArray[np.int64], coefficients: Array32, out: Bytes) -> Bytes:
        total = self.base
        if len(boxes):
            total = self.base.copy()
            # Layers of one colour are summed as one plane first: three times less to add.
            colours, group = np.unique(self._pack()[2], axis=0, return_inverse=True)
            for number, rgb in enumerate(colours):
                plane_sum = np.zeros((self.height, self.width), np.float32)
                for i in np.flatnonzero(group.ravel() == number):
                    at, y0, x0, h, w = boxes[i].tolist()
                    share = coefficients[i].max() / max(float(rgb.max()), 1e-30)
                    if share:
                        plane_sum[y0 : y0 + h, x0 : x0 + w] += np.float32(share) * data[at : at + h * w].reshape(h, w)
                for plane in range(3):
                    if rgb[plane]:
                        total[plane] += rgb[plane] * plane_sum
        index = total.view(np.uint32) >> np.uint32(15)
        for plane, place in ((0, 2), (1, 1), (2, 0)):
            np.take(table, index[plane], out=out[:, :, place], mode="clip")
        out[:, :, 3] = 255
        return out

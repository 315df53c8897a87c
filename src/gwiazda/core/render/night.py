"""The night picture: light adds, so each channel has a basis picture and a frame is their weighted sum.

Channels whose weight stands still are summed once into the base; the moving ones stay as layers cropped to
where they can be seen. Drawn by the compiled kernel once it is loaded, by NumPy until then.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.render.compiled import compiled
from gwiazda.core.render.tone import ScreenTable, into_gamut

if TYPE_CHECKING:
    from concurrent.futures import ThreadPoolExecutor

Array32 = npt.NDArray[np.float32]
Bytes = npt.NDArray[np.uint8]

LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)  # of linear sRGB (IEC 61966-2-1)
QUIET_FRAMES = 150  # a channel that has not changed for this long is summed into the base again
FEW = 8  # channels that change together while something is dragged


class Layer(NamedTuple):
    """Luminance (cd/m²) of one colour of one channel at weight 1: ``pixels`` (h, w) at (y0, x0), ``rgb`` linear."""

    channel: str
    rgb: tuple[float, float, float]
    y0: int
    x0: int
    pixels: Array32


def cropped(
    channel: str, rgb: tuple[float, float, float], picture: Array32, least: float, y0: int = 0, x0: int = 0
) -> Layer | None:
    """A layer without the margins where ``picture`` stays below ``least``; None when it does everywhere.

    Parameters
    ----------
    channel : str
        Its id.
    rgb : tuple[float, float, float]
        Linear sRGB of unit luminance.
    picture : array
        Luminance (H, W), cd/m².
    least : float
        Luminance below which nothing is kept, cd/m².
    y0 : int
        Row of the picture's first, px.
    x0 : int
        Column of the picture's first, px.

    Returns
    -------
    Layer or None
        The layer, or None.
    """
    rows = np.flatnonzero(picture.max(axis=1, initial=0.0) > least)
    if not len(rows):
        return None
    top, bottom = int(rows[0]), int(rows[-1]) + 1
    columns = np.flatnonzero(picture[top:bottom].max(axis=0) > least)
    left, right = int(columns[0]), int(columns[-1]) + 1
    return Layer(channel, rgb, y0 + top, x0 + left, np.ascontiguousarray(picture[top:bottom, left:right]))


BAND_ROWS = 32
THREADS = min(4, os.cpu_count() or 1)
Groups = dict[tuple[float, ...], list[tuple[Array32, int, int, np.float32]]]

_kernel: Callable[..., None] | None = None
_pool: ThreadPoolExecutor | None = None


def workers() -> ThreadPoolExecutor:
    """A few threads for rows of the picture; NumPy and the kernel both let them run side by side."""
    global _pool
    if _pool is None:
        from concurrent.futures import ThreadPoolExecutor

        _pool = ThreadPoolExecutor(max_workers=THREADS, thread_name_prefix="night")
    return _pool


def _loops() -> Callable[..., None]:
    from gwiazda.core.render.kernel import compose_rows  # compiled, or read from the disk, as it is imported

    return compose_rows


def load_kernel() -> None:
    """Import the compiled kernel (slow the first time); pictures use it from their next frame on, where there is room to keep it."""
    global _kernel
    _kernel = compiled(_loops) or _kernel


def kernel_loaded() -> bool:
    """Whether the compiled kernel is there already."""
    return _kernel is not None


class NightPicture:
    """Basis layers over a base picture.

    Parameters
    ----------
    hull : (H, W) or (3, H, W) float32 array
        Luminance of what the room's light shows, cd/m² for each of its lx.
    layers : sequence of Layer
    lux : float
        The room's light, lx.
    lit : (3, H, W) float32 array, optional
        Light that stays as it is, cd/m².
    """

    def __init__(
        self,
        hull: Array32,
        layers: Sequence[Layer] = (),
        weights: Mapping[str, float] | None = None,
        lux: float = 1.0,
        lit: Array32 | None = None,
    ) -> None:
        self._room, self.lux = hull, lux
        planes = np.broadcast_to(hull, (3, *hull.shape[-2:])) if hull.ndim == 2 else hull
        self.base = np.ascontiguousarray(planes, dtype=np.float32) * np.float32(lux)
        if lit is not None:
            self.base += lit
        self.height, self.width = self.base.shape[1:]
        self._layers: dict[str, list[Layer]] = {}
        self._weights: dict[str, float] = {}
        self._moving: dict[str, int] = {}
        self._packed: tuple[Array32, npt.NDArray[np.int64], Array32, list[str]] | None = None
        self.set_layers(layers, weights)

    def set_lux(self, lux: float) -> None:
        """The same in another light of the room.

        Parameters
        ----------
        lux : float
            Illuminance of the room, lx.
        """
        if lux == self.lux:
            return
        self.base += self._room * np.float32(lux - self.lux)
        np.maximum(self.base, 0.0, out=self.base)
        self.lux = lux

    @property
    def channels(self) -> tuple[str, ...]:
        """Channels that have light here."""
        return tuple(self._layers)

    @property
    def layer_bytes(self) -> int:
        """Memory that the layers take (bytes)."""
        return sum(layer.pixels.nbytes for group in self._layers.values() for layer in group)

    def _add(self, layer: Layer, factor: float) -> None:
        h, w = layer.pixels.shape
        for plane, c in enumerate(layer.rgb):
            if c * factor:
                self.base[plane, layer.y0 : layer.y0 + h, layer.x0 : layer.x0 + w] += (
                    np.float32(c * factor) * layer.pixels
                )

    def set_layers(self, layers: Iterable[Layer], weights: Mapping[str, float] | None = None) -> None:
        """Put whole channels in place; a channel that is there already is replaced.

        Parameters
        ----------
        layers : Iterable[Layer]
            Layers of whole channels.
        weights : Mapping[str, float] or None
            Level of each channel, 0 to 1; 1 where it isn't named.
        """
        groups: dict[str, list[Layer]] = {}
        for layer in layers:
            groups.setdefault(layer.channel, []).append(layer)
        for channel, group in groups.items():
            replaced = channel in self._layers
            self.remove(channel)
            self._layers[channel] = group
            self._weights[channel] = 1.0 if weights is None else weights.get(channel, 1.0)
            if replaced and len(groups) <= FEW:
                # What has just changed will change again, as while a lamp is dragged: it stays a layer for now. Where
                # many change at once nothing is dragged, and each layer would cost at every frame from then on.
                self._moving[channel] = 0
                continue
            for layer in group:
                self._add(layer, self._weights[channel])

    def remove(self, channel: str) -> None:
        """Take a channel out of the picture.

        Parameters
        ----------
        channel : str
            Its id.
        """
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

    def frame(self, table: ScreenTable, weights: Mapping[str, float] | None = None, out: Bytes | None = None) -> Bytes:
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
        if _kernel is not None:
            bands = min(THREADS, max(1, self.height // 64))
            edges = np.linspace(0, self.height, bands + 1).astype(int)
            jobs: list[Any] = [
                workers().submit(
                    _kernel, self.base, data, boxes, coefficients, table.scale, table.code, out, int(a), int(b)
                )
                for a, b in pairwise(edges[1:].tolist())
            ]
            _kernel(self.base, data, boxes, coefficients, table.scale, table.code, out, 0, int(edges[1]))
            for job in jobs:
                job.result()
            return out
        return self._frame_numpy(table, data, boxes, coefficients, out)

    def _frame_numpy(
        self, table: ScreenTable, data: Array32, boxes: npt.NDArray[np.int64], coefficients: Array32, out: Bytes
    ) -> Bytes:
        """The same with NumPy: in bands of rows that fit the processor's cache, two at a time."""
        # Layers of one colour are summed as one plane first: three times less to add.
        groups: dict[tuple[float, ...], list[tuple[Array32, int, int, np.float32]]] = {}
        for i, rgb in enumerate(self._pack()[2].tolist()):
            at, y0, x0, h, w = boxes[i].tolist()
            share = np.float32(coefficients[i].max() / max(*rgb, 1e-30))
            groups.setdefault(tuple(rgb), []).append((data[at : at + h * w].reshape(h, w), y0, x0, share))
        list(workers().map(lambda top: self._band(table, groups, out, top), range(0, self.height, BAND_ROWS)))
        return out

    def _band(self, table: ScreenTable, groups: Groups, out: Bytes, top: int) -> None:
        bottom = min(top + BAND_ROWS, self.height)
        total = self.base[:, top:bottom]
        if groups:
            total = total.copy()
            plane_sum, scratch = np.empty((2, bottom - top, self.width), np.float32)
            for rgb, members in groups.items():
                plane_sum[:] = 0.0
                for pixels, y0, x0, share in members:
                    first, last = max(y0, top), min(y0 + pixels.shape[0], bottom)
                    if first < last:
                        part = scratch[: last - first, : pixels.shape[1]]
                        np.multiply(pixels[first - y0 : last - y0], share, out=part)
                        plane_sum[first - top : last - top, x0 : x0 + pixels.shape[1]] += part
                for plane in range(3):
                    if rgb[plane]:
                        np.multiply(plane_sum, np.float32(rgb[plane]), out=scratch)
                        total[plane] += scratch
        luma = np.maximum(np.tensordot(LUMINANCE, total, axes=1), 0.0)
        scale = np.take(table.scale, luma.view(np.uint32) >> np.uint32(15), mode="clip")
        total = total * scale
        into_gamut(total, luma * scale)
        np.maximum(total, 0.0, out=total)
        index = total.view(np.uint32) >> np.uint32(15)
        shown = np.empty(index.shape[1:], np.uint8)
        for plane, place in ((0, 2), (1, 1), (2, 0)):
            np.take(table.code, index[plane], out=shown, mode="clip")
            out[top:bottom, :, place] = shown
        out[top:bottom, :, 3] = 255

    def luminance_at(self, x: int, y: int) -> float:
        """Luminance (cd/m²) of one pixel, at the weights of the last frame (IEC 61966-2-1 primaries).

        Parameters
        ----------
        x : int
            Column, px.
        y : int
            Row, px.

        Returns
        -------
        float
            Luminance, cd/m².
        """
        rgb = self.base[:, y, x].astype(float)
        for channel in self._moving:
            for layer in self._layers[channel]:
                h, w = layer.pixels.shape
                if layer.y0 <= y < layer.y0 + h and layer.x0 <= x < layer.x0 + w:
                    value = float(layer.pixels[y - layer.y0, x - layer.x0]) * self._weights[channel]
                    rgb += np.array(layer.rgb) * value
        return float(rgb @ LUMINANCE)

# SPDX-License-Identifier: GPL-3.0-or-later
"""Array types and checks shared by the core. Knows nothing but NumPy."""

from collections.abc import Callable
from typing import Any

import numpy as np
import numpy.typing as npt

from drip_pot.core.errors import BadInput

U8 = npt.NDArray[np.uint8]
U16 = npt.NDArray[np.uint16]
U32 = npt.NDArray[np.uint32]
I32 = npt.NDArray[np.int32]
I16 = npt.NDArray[np.int16]
I64 = npt.NDArray[np.int64]
F32 = npt.NDArray[np.float32]
F64 = npt.NDArray[np.float64]
C128 = npt.NDArray[np.complex128]
Bool = npt.NDArray[np.bool_]

Report = Callable[[float, str], None]
"""Called with the fraction done (0..1) and what is going on; raises `Cancelled` when asked to stop."""

Rect = tuple[int, int, int, int]
"""Top, left, bottom, right in pixels; bottom and right are outside."""


def no_report(fraction: float, doing: str) -> None:
    """Ignore progress: the `Report` for callers that do not wait."""


Gray = npt.NDArray[np.unsignedinteger[Any]]
"""A grey plane as deep as its file: white is 255 or 65535."""


def check_gray(plane: npt.NDArray[Any], name: str) -> int:
    """Return the value of white, 255 or 65535; raise `BadInput` unless `plane` is (M, N) uint8 or uint16."""
    check_plane(plane, np.uint16 if plane.dtype == np.uint16 else np.uint8, name)
    return 65535 if plane.dtype == np.uint16 else 255


def check_plane(plane: npt.NDArray[Any], dtype: type[np.generic], name: str) -> None:
    """Raise `BadInput` unless `plane` is a non-empty (M, N) array of a dtype, as uint8."""
    if plane.ndim != 2 or plane.size == 0 or plane.dtype != dtype:
        raise BadInput(
            "{0} must be a non-empty (M, N) array of {1}, not {2} of shape {3}.",
            name,
            dtype.__name__,
            plane.dtype,
            plane.shape,
        )


_spare: list[npt.NDArray[Any]] = []
_SPARE_MOST = 2


class _Lease:
    """Memory of a plane, kept for the next one when the last array on it is gone."""

    def __init__(self, plane: npt.NDArray[Any]) -> None:
        self._plane = plane
        self.__array_interface__ = plane.__array_interface__

    def __del__(self) -> None:
        if len(_spare) < _SPARE_MOST:
            _spare.append(self._plane)


def copied(plane: I32) -> I32:
    """Copy a page plane, (M, N) int32, into memory that an earlier copy has left, where there is some.

    Fresh memory for a plane of 100 MB costs more than the copying, as the system has to clear it page by page.
    """
    try:
        kept = _spare.pop()
    except IndexError:
        kept = plane
    fits = kept is not plane and (kept.shape, kept.dtype) == (plane.shape, plane.dtype)
    memory = kept if fits else np.empty(plane.shape, plane.dtype)
    out = np.asarray(_Lease(memory))
    np.copyto(out, plane)
    return out


def cut_to(plane: U8, shape: tuple[int, int]) -> U8:
    """Return a plane, (M, N) uint8, cut or filled up with zeros to a shape, by a row or column at most."""
    if plane.shape == shape:
        return plane
    out = np.zeros(shape, np.uint8)
    out[: plane.shape[0], : plane.shape[1]] = plane[: shape[0], : shape[1]]
    return out

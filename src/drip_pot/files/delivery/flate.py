# SPDX-License-Identifier: GPL-3.0-or-later
"""Streams of zlib, RFC 1950, packed part by part on several threads. Knows bytes only."""

import zlib
from dataclasses import dataclass

_LEVEL, _RAW = 6, -15
_HEADER, _LAST = b"\x78\x9c", b"\x03\x00"


@dataclass(frozen=True)
class Packed:
    """A part of a stream: packed, and as it was."""

    packed: bytes
    plain: bytes


def pack(plain: bytes) -> Packed:
    """Pack a part so that others can stand before and after it."""
    packer = zlib.compressobj(_LEVEL, zlib.DEFLATED, _RAW)
    return Packed(packer.compress(plain) + packer.flush(zlib.Z_FULL_FLUSH), plain)


class Flate:
    """A stream put together from parts, in their order."""

    def __init__(self) -> None:
        self._parts, self._sum = [_HEADER], 1

    def add(self, part: Packed) -> None:
        """Go on with a part."""
        self._parts.append(part.packed)
        self._sum = zlib.adler32(part.plain, self._sum)

    def whole(self) -> bytes:
        """Return the stream."""
        return b"".join([*self._parts, _LAST, self._sum.to_bytes(4, "big")])

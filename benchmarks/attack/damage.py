# SPDX-License-Identifier: GPL-3.0-or-later
"""Bytes made wrong in ways that files go wrong, and in ways that people make them. Knows bytes only."""

import random
import struct

_SIZES = (0, 1, 2, 3, 127, 255, 256, 32767, 65535, 65536, 1 << 20, 1 << 24, (1 << 31) - 1, 1 << 31, (1 << 32) - 1)


def damaged(data: bytes, other: bytes, chance: random.Random) -> bytes:
    """Return bytes with one to four wrongs done to them; `other` is mixed in at times."""
    for _ in range(chance.randint(1, 4)):
        data = chance.choice(_WAYS)(data, other, chance)
    return data


def _flip(data: bytes, _: bytes, chance: random.Random) -> bytes:
    out = bytearray(data)
    for _k in range(chance.randint(1, 20)):
        if out:
            out[min(int(chance.expovariate(1 / max(len(out) / 6, 1))), len(out) - 1)] = chance.randrange(256)
    return bytes(out)


def _cut(data: bytes, _: bytes, chance: random.Random) -> bytes:
    return data[: chance.randint(0, len(data))]


def _drop(data: bytes, _: bytes, chance: random.Random) -> bytes:
    start = chance.randint(0, len(data))
    return data[:start] + data[start + chance.randint(1, 400) :]


def _twice(data: bytes, _: bytes, chance: random.Random) -> bytes:
    start = chance.randint(0, len(data))
    piece = data[start : start + chance.randint(1, 2000)]
    return data[:start] + piece * chance.randint(2, 9) + data[start:]


def _mixed(data: bytes, other: bytes, chance: random.Random) -> bytes:
    return data[: chance.randint(0, len(data))] + other[chance.randint(0, len(other)) :]


def _number(data: bytes, _: bytes, chance: random.Random) -> bytes:
    """Put a number of note where sizes stand, in either order of bytes."""
    at = min(int(chance.expovariate(1 / 60)), max(len(data) - 4, 0))
    kind, bits = chance.choice(((">I", 32), ("<I", 32), (">H", 16), ("<H", 16)))
    number = struct.pack(kind, chance.choice(_SIZES) & ((1 << bits) - 1))
    return data[:at] + number + data[at + len(number) :]


def _padded(data: bytes, _: bytes, chance: random.Random) -> bytes:
    return data + bytes(chance.randrange(256) for _ in range(chance.randint(1, 3000)))


_WAYS = (_flip, _flip, _number, _number, _cut, _drop, _twice, _mixed, _padded)

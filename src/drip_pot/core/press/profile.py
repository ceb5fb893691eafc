# SPDX-License-Identifier: GPL-3.0-or-later
"""A press condition written as an ICC profile, so that others see and separate as we do. Knows the press model.

See International Color Consortium, "Specification ICC.1:2001-04", which describes version 2.
"""

import struct

import numpy as np

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color import linear_to_oklab
from drip_pot.core.press.conditions import D50, TO_LINEAR, lab_to_xyz
from drip_pot.core.press.model import PressSettings, separate_lab

_INK_STEPS, _LAB_STEPS = 9, 17
_DATE = (2026, 1, 1, 0, 0, 0)


def icc_profile(settings: PressSettings) -> bytes:
    """Return an output profile of a press condition for four inks, with its ink limit and black, as a file's bytes.

    Both ways are tables: inks to CIELAB against the paper, and CIELAB to inks as `separate_lab` finds them.
    """
    title = f"Drip Pot {settings.press.title} {settings.ink_limit} %"
    to_lab, to_ink = _table(_lab_of_inks(settings), 4, _INK_STEPS), _table(_inks_of_lab(settings), 3, _LAB_STEPS)
    sheet = lab_to_xyz(np.array([settings.press.paper]))[0]
    tags = {
        b"desc": _description(title),
        b"cprt": b"text\0\0\0\0" + f"Fitted to {settings.press.source}".encode("ascii", "replace") + b"\0",
        b"wtpt": b"XYZ \0\0\0\0" + struct.pack(">3i", *(round(v * 65536) for v in sheet)),
        b"A2B0": to_lab, b"A2B1": to_lab, b"A2B2": to_lab,
        b"B2A0": to_ink, b"B2A1": to_ink, b"B2A2": to_ink,
        b"gamt": _table(np.zeros((8, 1)), 3, 2),
    }  # fmt: skip
    places: dict[bytes, tuple[int, int]] = {}
    body, start = b"", 128 + 4 + 12 * len(tags)
    entries = []
    for name, data in tags.items():
        if data not in places:
            places[data] = start + len(body), len(data)
            body += data + b"\0" * (-len(data) % 4)
        entries.append(struct.pack(">4sII", name, *places[data]))
    size = start + len(body)
    header = struct.pack(
        ">I4sI4s4s4s6H4s4sI4s4sQI3i4s44x", size, b"\0\0\0\0", 0x02400000, b"prtr", b"CMYK", b"Lab ", *_DATE, b"acsp",
        b"\0\0\0\0", 0, b"\0\0\0\0", b"\0\0\0\0", 0, 1, *(round(v * 65536) for v in (0.9642, 1.0, 0.8249)), b"\0\0\0\0",
    )  # fmt: skip
    return header + struct.pack(">I", len(tags)) + b"".join(entries) + body


def _description(title: str) -> bytes:
    text = title.encode("ascii", "replace") + b"\0"
    return b"desc\0\0\0\0" + struct.pack(">I", len(text)) + text + b"\0" * (4 + 4 + 2 + 1 + 67)


def _lab_of_inks(settings: PressSettings) -> F64:
    steps = np.linspace(0, 1, _INK_STEPS)
    inks = np.stack(np.meshgrid(steps, steps, steps, steps, indexing="ij"), axis=-1).reshape(-1, 4)
    xyz = settings.press.light(inks) @ np.linalg.inv(TO_LINEAR).T / D50
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    lab = np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)
    return np.asarray((lab + np.array([0, 128, 128])) * np.array([652.8, 256, 256]))


def _inks_of_lab(settings: PressSettings) -> F64:
    light = np.linspace(0, 65535, _LAB_STEPS) / 652.8
    across = np.linspace(0, 65535, _LAB_STEPS) / 256 - 128
    lab = np.stack(np.meshgrid(light, across, across, indexing="ij"), axis=-1).reshape(-1, 3)
    oklab = linear_to_oklab(lab_to_xyz(lab) @ TO_LINEAR.T)
    oklab[:, 0] = np.clip(oklab[:, 0], 0, 1)
    inks, _ = separate_lab(oklab, settings)
    inks[(lab[:, 0] >= 99) & (np.abs(lab[:, 1:]) < 1).all(axis=1)] = 0  # paper takes no ink
    return inks.astype(np.float64) * 257


def _table(values: F64 | U8, inputs: int, steps: int) -> bytes:
    """Return a table of 16-bit values over a grid, (steps ** inputs, outputs), with straight curves."""
    outputs = values.shape[1]
    straight = struct.pack(">2H", 0, 65535)
    grid = bytes(np.clip(np.rint(values), 0, 65535).astype(">u2").tobytes())
    identity = struct.pack(">9i", *(65536 * int(k % 4 == 0) for k in range(9)))
    head = b"mft2\0\0\0\0" + struct.pack(">4B", inputs, outputs, steps, 0) + identity + struct.pack(">2H", 2, 2)
    return bytes(head + straight * inputs + grid + straight * outputs)

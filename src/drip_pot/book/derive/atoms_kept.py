# SPDX-License-Identifier: GPL-3.0-or-later
"""Atoms as bytes, for the cache that keeps them between sessions. Knows core's atoms only.

The labels of a large page are a hundred megabytes: they are compressed by themselves, and never copied by what keeps
the interpreter from other threads.
"""

import msgspec
import numpy as np
import zstandard

from drip_pot.book.store import inflated
from drip_pot.core.regions import EVIDENCE, Atoms, Borders, Bridges

_MOST_BYTES = 8 << 30


class _Stored(msgspec.Struct):
    shape: tuple[int, int]
    labels: memoryview  # compressed as well; in older books as they are
    count: int
    feet: bytes
    width: bytes
    confidence: bytes
    pair: bytes
    edges: bytes
    line_px: float
    solids: bytes
    evidence: bytes
    bend: bytes
    areas: bytes
    borders: bytes
    lengths: bytes
    verdict: bytes
    aligned: bytes = b""  # not in pages divided before there was a floor; their verdicts stand


def pack_atoms(atoms: Atoms) -> bytes:
    """Return atoms as bytes for the cache: MessagePack within Zstandard."""
    b, packer = atoms.bridges, zstandard.ZstdCompressor(level=1)
    labels = memoryview(packer.compress(np.ascontiguousarray(atoms.labels).reshape(-1).data))
    stored = _Stored(
        (atoms.labels.shape[0], atoms.labels.shape[1]), labels, atoms.count,
        b.feet.tobytes(), b.width_px.tobytes(), b.confidence.tobytes(), b.is_tip_pair.tobytes(),
        atoms.edges.tobytes(), atoms.line_px, atoms.solids.tobytes(), b.evidence.tobytes(), b.bend.tobytes(),
        atoms.areas.tobytes(),
        atoms.borders.pairs.tobytes(), atoms.borders.length_px.tobytes(), atoms.verdict.tobytes(),
        b.aligned.tobytes(),
    )  # fmt: skip
    return packer.compress(msgspec.msgpack.encode(stored))


def unpack_atoms(data: bytes) -> Atoms | None:
    """Undo `pack_atoms`; None for damaged data, which is then worked out again."""
    try:
        s = msgspec.msgpack.decode(inflated(data, _MOST_BYTES), type=_Stored)
        bridges = Bridges(
            np.frombuffer(s.feet, np.int64).reshape(-1, 4),
            np.frombuffer(s.width, np.float64),
            np.frombuffer(s.confidence, np.float64),
            np.frombuffer(s.pair, bool),
            np.frombuffer(s.evidence, np.float64).reshape(-1, len(EVIDENCE)),
            np.frombuffer(s.bend, np.float64).reshape(-1, 2),
            np.frombuffer(s.aligned or bytes(len(s.pair)), bool),
        )
        borders = Borders(np.frombuffer(s.borders, np.int64).reshape(-1, 2), np.frombuffer(s.lengths, np.int64))
        whole = 4 * s.shape[0] * s.shape[1]
        raw = s.labels if len(s.labels) == whole else inflated(s.labels, min(whole, _MOST_BYTES))
        labels = np.frombuffer(raw, np.int32).reshape(s.shape)
        edges = np.frombuffer(s.edges, np.int64).reshape(-1, 3)
        return Atoms(
            labels, s.count, bridges, edges, s.line_px, np.frombuffer(s.solids, np.int64),
            np.frombuffer(s.areas, np.int64), borders, np.frombuffer(s.verdict, np.float64),
        )  # fmt: skip
    except (zstandard.ZstdError, msgspec.MsgspecError, ValueError):
        return None

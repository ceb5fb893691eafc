# SPDX-License-Identifier: GPL-3.0-or-later
"""Press profiles of others: an ICC file read as a press condition of ours. Knows ICC files through Pillow's LittleCMS.

The sixteen solids are taken as the profile has them; tone values are fitted to its ramps and a grid of mixtures.
"""

import hashlib
import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import scipy
from PIL import Image, ImageCms

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color import linear_to_oklab
from drip_pot.core.errors import BadInput, Unreadable
from drip_pot.core.press import Condition
from drip_pot.core.press.conditions import TO_LINEAR, lab_to_xyz
from drip_pot.words import tr

_MOST_BYTES = 8 << 20
_FOLDERS = ("/usr/share/color/icc", "/usr/local/share/color/icc", "~/.local/share/icc", "~/.color/icc")
_RELATIVE, _ABSOLUTE = ImageCms.Intent.RELATIVE_COLORIMETRIC, ImageCms.Intent.ABSOLUTE_COLORIMETRIC


def profiles_found() -> list[Path]:
    """List the files on this system that look like CMYK profiles, by their headers."""
    found = []
    for folder in _FOLDERS:
        for path in sorted(Path(folder).expanduser().glob("**/*.ic[cm]")):
            try:
                with path.open("rb") as file:
                    head = file.read(128)
            except OSError:
                continue
            if head[36:40] == b"acsp" and head[16:20] == b"CMYK":
                found.append(path)
    return found


def read_condition(data: bytes, name: str) -> Condition:
    """Read an ICC profile as a press condition.

    Parameters
    ----------
    data : bytes
        The file.
    name : str
        What it is called in words to people.

    Raises
    ------
    BadInput
        If it is larger than 8 MB, or for anything but CMYK.
    Unreadable
        If it is no profile, or damaged.
    """
    if len(data) > _MOST_BYTES:
        raise BadInput("{0} has {1} MB; profiles up to 8 MB are read.", name, len(data) >> 20)
    if len(data) < 132 or data[36:40] != b"acsp":
        raise Unreadable("{0} is no ICC profile. Choose an .icc or .icm file of a press.", name)
    if data[16:20] != b"CMYK":
        kind = data[16:20].decode("ascii", "replace").strip()
        raise BadInput("{0} is a profile for {1}, not for CMYK. Choose the profile of a press.", name, kind)
    try:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(data))
        title = ImageCms.getProfileDescription(profile).strip() or name
        bits = (np.arange(16)[:, None] >> np.arange(4)) & 1
        solids = _lab(profile, (bits * 255).astype(np.uint8), _RELATIVE)
        paper = _lab(profile, np.zeros((1, 4), np.uint8), _ABSOLUTE)[0]
        solids[0] = (100, 0, 0)
        corners = tuple(_three(row) for row in solids.round(2).tolist())
        start = Condition(title[:80], tr("ICC profile {0}", title[:80]), corners, _three(paper.round(2).tolist()), 1.8,
                          (0.1, 0.1, 0.1, 0.1), (1.0, 1.0, 1.0, 1.0), 150.0, 300, data)  # fmt: skip
        return _fitted(profile, start)
    except (ImageCms.PyCMSError, OSError, ValueError) as error:
        raise Unreadable("{0} is damaged, or a kind of profile that cannot be used: {1}.", name, error) from error


def name_of(condition: Condition) -> str:
    """Return the name under which a condition from a profile is kept: the same for the same file."""
    return f"profile-{hashlib.sha256(condition.icc).hexdigest()[:12]}"


def misses(condition: Condition) -> float:
    """Return how far a condition misses its profile on average, OKLab × 100, over ramps and mixtures."""
    inks = _chart()
    profile = ImageCms.ImageCmsProfile(io.BytesIO(condition.icc))
    wanted = linear_to_oklab(lab_to_xyz(_lab(profile, inks, _RELATIVE)) @ TO_LINEAR.T)
    return float(np.linalg.norm(linear_to_oklab(condition.light(inks / 255.0)) - wanted, axis=1).mean() * 100)


def _lab(profile: ImageCms.ImageCmsProfile, inks: U8, intent: ImageCms.Intent) -> F64:
    """Return CIELAB of (N, 4) inks, (N, 3)."""
    change = ImageCms.buildTransform(profile, ImageCms.createProfile("LAB"), "CMYK", "LAB", intent)
    picture = Image.frombytes("CMYK", (len(inks), 1), np.ascontiguousarray(inks).tobytes())
    found = ImageCms.applyTransform(picture, change)
    assert found is not None
    raw = np.frombuffer(found.tobytes(), np.uint8).reshape(-1, 3).astype(np.int16)
    signed = np.where(raw[:, 1:] > 127, raw[:, 1:] - 256, raw[:, 1:])
    return np.column_stack([raw[:, 0] * (100 / 255), signed]).astype(np.float64)


def _three(values: list[float]) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def _chart() -> U8:
    """Return inks to fit to: ramps of every ink, and a grid of mixtures."""
    steps = np.linspace(0, 255, 18).round().astype(np.uint8)
    ramps = np.zeros((4 * len(steps), 4), np.uint8)
    for plate in range(4):
        ramps[plate * len(steps) : (plate + 1) * len(steps), plate] = steps
    corners = np.array([0, 85, 170, 255], np.uint8)
    grid = np.stack(np.meshgrid(corners, corners, corners, corners[:3], indexing="ij"), axis=-1).reshape(-1, 4)
    return np.concatenate([ramps, grid])


def _fitted(profile: ImageCms.ImageCmsProfile, start: Condition) -> Condition:
    """Fit spread, gains and powers of a condition to a profile."""
    inks = _chart()
    wanted = linear_to_oklab(lab_to_xyz(_lab(profile, inks, _RELATIVE)) @ TO_LINEAR.T)

    def made(values: F64) -> Condition:
        n, c, m, y, k, *powers = (float(v) for v in values)
        return replace(start, spread=n, gains=(c, m, y, k), powers=(powers[0], powers[1], powers[2], powers[3]))

    def residual(values: F64) -> F64:
        return np.asarray((linear_to_oklab(made(values).light(inks / 255.0)) - wanted).ravel())

    low, high = [1.0] + [-0.1] * 4 + [0.5] * 4, [6.0] + [0.4] * 4 + [2.0] * 4
    found = scipy.optimize.least_squares(
        residual, [start.spread, *start.gains, *start.powers], bounds=(low, high), max_nfev=60
    )
    best = made(found.x.round(4))
    return replace(best, source=tr("{0}, missed by {1:.1f} on average", start.source, np.abs(found.fun).mean() * 100))

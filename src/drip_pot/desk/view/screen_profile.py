# SPDX-License-Identifier: GPL-3.0-or-later
"""The screen's own colour profile, where the desktop tells it. Knows X11's property for it, and Qt's colour spaces."""

import logging

from PyQt6.QtGui import QColorSpace, QGuiApplication, QImage

log = logging.getLogger(__name__)
_MOST_BYTES = 8 << 20
SRGB = QColorSpace(QColorSpace.NamedColorSpace.SRgb)


def screen_space(number: int = 0) -> QColorSpace | None:
    """Return the colour space of a screen by its number; None where the desktop tells none, or tells sRGB.

    Desktops tell it as a property of X11's root window ("ICC Profiles in X Specification", freedesktop.org).
    """
    if QGuiApplication.platformName() != "xcb":
        return None
    from Xlib.error import DisplayError, XError  # read where there is an X11

    try:
        found = _property(f"_ICC_PROFILE_{number}" if number else "_ICC_PROFILE")
    except (DisplayError, XError, OSError) as error:
        log.info("the desktop could not be asked for the screen's profile: %s", error)
        return None
    space = None if found is None else QColorSpace.fromIccProfile(found)
    if space is None or not space.isValid() or space == SRGB:
        return None
    log.info("the screen is shown by its profile: %s", space.description())
    return space


def _property(name: str) -> bytes | None:
    from Xlib import X, display

    shown = display.Display()
    try:
        atom = shown.intern_atom(name, only_if_exists=True)
        value = shown.screen().root.get_full_property(atom, X.AnyPropertyType, _MOST_BYTES) if atom else None
        return None if value is None else bytes(value.value)
    finally:
        shown.close()


def on_screen(image: QImage, space: QColorSpace | None) -> QImage:
    """Return an sRGB picture as a screen of some colour space is to be sent it."""
    if space is not None:
        image.setColorSpace(SRGB)
        image.convertToColorSpace(space)
    return image

# SPDX-License-Identifier: GPL-3.0-or-later
"""Small parts the window is made of: theme, icons, widgets. Knows Qt; nothing of books."""

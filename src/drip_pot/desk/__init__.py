# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: Qt widgets over the book. The only package that knows Qt; it holds no truth of its own."""

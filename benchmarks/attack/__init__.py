# SPDX-License-Identifier: GPL-3.0-or-later
"""Attacks on what is read and written, each case from a number: `python -m attack KIND --cases N --first K`."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""The open book: what is in use, what follows from it, gestures carried out. Knows the book and files; no stage."""

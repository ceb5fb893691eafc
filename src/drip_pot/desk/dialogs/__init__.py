# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions asked in windows of their own. Knows the session, parts and the book; no stage."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""What is asked about and done through menus and dialogs. Knows the session, the shelf and dialogs; no stage."""

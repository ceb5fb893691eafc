# SPDX-License-Identifier: GPL-3.0-or-later
"""Commands of the terminal of more than a few lines: batches, movements, pictures placed. Knows files, no window."""

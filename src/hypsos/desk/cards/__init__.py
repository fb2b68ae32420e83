# SPDX-License-Identifier: GPL-3.0-or-later
"""Parts of pages: a card for each subject."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""The document and what can be said and asked of it without running it."""

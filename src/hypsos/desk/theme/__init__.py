# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours, type and the style sheet."""

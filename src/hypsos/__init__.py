# SPDX-License-Identifier: GPL-3.0-or-later
"""Hypsos: a workbench for programming and proving radio-controlled aeroplanes."""

__version__ = "0.1.0"

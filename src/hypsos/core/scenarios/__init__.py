# SPDX-License-Identifier: GPL-3.0-or-later
"""Scenarios: recorded moves, what is expected of them, rehearsals, and what a lost link does."""

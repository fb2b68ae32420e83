# SPDX-License-Identifier: GPL-3.0-or-later
"""Fitting a model to its aeroplane: throws, directions, practice, what full stick gives."""

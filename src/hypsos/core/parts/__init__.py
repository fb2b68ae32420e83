# SPDX-License-Identifier: GPL-3.0-or-later
"""The parts of a model as values: airframe, transmitter, leads, linkages, mix lines, conditions."""

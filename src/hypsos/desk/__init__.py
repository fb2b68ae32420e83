# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: reads the workbench, asks it to change things, paints."""

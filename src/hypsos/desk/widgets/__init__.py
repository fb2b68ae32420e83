# SPDX-License-Identifier: GPL-3.0-or-later
"""Fields and drawings that pages and bench share."""

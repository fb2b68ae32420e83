# SPDX-License-Identifier: GPL-3.0-or-later
"""Who reads whom in a model: the order of conditions, what reaches a motor, who refers to what."""

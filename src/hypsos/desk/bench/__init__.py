# SPDX-License-Identifier: GPL-3.0-or-later
"""The bench: the aeroplane, the hands and the outputs, live all the time."""

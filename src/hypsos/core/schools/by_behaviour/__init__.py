# SPDX-License-Identifier: GPL-3.0-or-later
"""The school *by behaviour*: wing and tail make ready behaviours, with a few mixes of one's own."""

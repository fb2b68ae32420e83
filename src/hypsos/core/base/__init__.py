# SPDX-License-Identifier: GPL-3.0-or-later
"""What everything stands on: errors in our words, numbers of two kinds, the base of every value."""

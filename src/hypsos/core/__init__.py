# SPDX-License-Identifier: GPL-3.0-or-later
"""The computation: no window, no files, no clock. Pure values in, values out."""

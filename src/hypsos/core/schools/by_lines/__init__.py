# SPDX-License-Identifier: GPL-3.0-or-later
"""The school *by lines*: every output is a list of lines."""

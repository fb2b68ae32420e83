# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed in, written down: blocks of a sheet, and what the pages of all schools share."""

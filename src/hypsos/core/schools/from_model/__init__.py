# SPDX-License-Identifier: GPL-3.0-or-later
"""What the translations of all schools take from a model: the hardware, and conditions in pairs."""

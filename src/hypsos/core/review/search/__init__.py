# SPDX-License-Identifier: GPL-3.0-or-later
"""Everything the hands can bring about: the slice of the model that matters, the grid of inputs,
the search."""

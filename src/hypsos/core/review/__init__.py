# SPDX-License-Identifier: GPL-3.0-or-later
"""The search for what goes wrong: statements about a model, broken or not, with the shortest way
there."""

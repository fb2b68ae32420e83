# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of a document: each takes a model and gives the model changed, or says why it can't be."""

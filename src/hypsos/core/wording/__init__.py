# SPDX-License-Identifier: GPL-3.0-or-later
"""Sentences: values in, text out."""

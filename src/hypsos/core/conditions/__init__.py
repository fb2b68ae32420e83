# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions: built as sentences, edited word by word, looked over, and when they become known."""

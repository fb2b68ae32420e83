# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window works on: the document with its history, and the model in motion."""

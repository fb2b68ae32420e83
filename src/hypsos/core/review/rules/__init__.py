# SPDX-License-Identifier: GPL-3.0-or-later
"""One file a subject: what is claimed of every model, and how it is looked for."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""What goes on beside the window: the search, scenarios, the recorder, the voice, files,
settings."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""What a transmitter can't do is taken out of a design in the open, one kind of thing to a file."""

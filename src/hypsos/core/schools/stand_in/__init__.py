# SPDX-License-Identifier: GPL-3.0-or-later
"""A small simulated transmitter with its receiver, made of parts that every way of thinking shares.

Each school turns its own settings into these parts; what a part means is said at the part. Nothing
here reads a model or uses the engine: a proof that plays a design against this stand-in would prove
nothing if both went by the same rules."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""The sample hangar of the Sandreach Dune Watch: models, flights, recorded moves."""

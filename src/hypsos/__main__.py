# SPDX-License-Identifier: GPL-3.0-or-later
"""``python -m hypsos``: nothing is taken from the folder one happens to stand in, such as a
``queue.py`` beside downloads."""

import sys

if not sys.flags.safe_path and not __file__.startswith(sys.path[0]):
    del sys.path[0]

from hypsos.start import main

main()

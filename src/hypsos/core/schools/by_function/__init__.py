# SPDX-License-Identifier: GPL-3.0-or-later
"""The school *by function*: hands feed named functions, functions feed servos and each other."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""What must hold across the parts of a document, and documents read from files."""

# SPDX-License-Identifier: GPL-3.0-or-later
"""The shape of an aeroplane: layouts, templates, figures, the solid; a model fitted to another
shape."""

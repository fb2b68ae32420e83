"""The shape of an aeroplane: layouts, templates, figures, the solid; a model fitted to another shape."""

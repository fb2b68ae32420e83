"""Fitting a model to its aeroplane: throws, directions, practice, what full stick gives."""

"""Everything the hands can bring about: the slice of the model that matters, the grid of inputs, the search."""

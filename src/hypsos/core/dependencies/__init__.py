"""Who reads whom in a model: the order of conditions, what reaches a motor, who refers to what."""

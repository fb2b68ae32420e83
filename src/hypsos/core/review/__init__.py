"""The search for what goes wrong: statements about a model, broken or not, with the shortest way there."""

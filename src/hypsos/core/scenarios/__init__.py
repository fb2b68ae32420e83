"""Scenarios: recorded moves, what is expected of them, rehearsals, and what a lost link does."""

"""What everything stands on: errors in our words, numbers of two kinds, the base of every value."""

"""Conditions: built as sentences, edited word by word, looked over, and when they become known."""

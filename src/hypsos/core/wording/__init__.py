"""Sentences: values in, text out."""

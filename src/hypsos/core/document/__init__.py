"""The document and what can be said and asked of it without running it."""

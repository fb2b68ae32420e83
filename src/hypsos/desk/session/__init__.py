"""What the window works on: the document with its history, and the model in motion."""

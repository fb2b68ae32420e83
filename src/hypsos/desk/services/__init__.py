"""What goes on beside the window: the search, scenarios, the recorder, the voice, files, settings."""

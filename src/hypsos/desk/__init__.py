"""The window: reads the workbench, asks it to change things, paints."""

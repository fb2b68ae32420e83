"""The computation: no window, no files, no clock. Pure values in, values out."""

"""One file a subject: what is claimed of every model, and how it is looked for."""

"""What must hold across the parts of a document, and documents read from files."""

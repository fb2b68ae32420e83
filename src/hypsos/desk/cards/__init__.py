"""Parts of pages: a card for each subject."""

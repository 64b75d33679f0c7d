"""The book: what a shop wrote of all its bows, a season summed up, finished bows side by side."""

"""Bows being built, with their log."""

"""Bowstrings."""

"""Photographs of bows on the wall that are read as checks."""

"""The wood rack."""

"""Strings of a build."""

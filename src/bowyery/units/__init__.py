"""Quantities and draw rulers, as makers read and write them."""

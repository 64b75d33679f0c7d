"""Instruments of a bench: the lines they speak, what a pull says, and their stand-ins."""

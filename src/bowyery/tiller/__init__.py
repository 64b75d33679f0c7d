"""Tillering: readings of a limb, what they say of its stiffness, and what to do next."""

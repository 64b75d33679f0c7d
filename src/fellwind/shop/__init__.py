"""The shop: its air, gear, habits and archers; the materials' list."""

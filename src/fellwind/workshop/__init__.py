"""The shop itself: people, archers, gear, air, units, and the Today page."""

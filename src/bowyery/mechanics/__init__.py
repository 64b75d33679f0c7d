"""How a bow bends, bears and shoots."""

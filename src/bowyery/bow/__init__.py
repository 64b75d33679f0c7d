"""The nouns of a bow: sections, limbs, layouts, and the open bow file."""

"""What a photograph of a bow before a wall says of its limbs."""

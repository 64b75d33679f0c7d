"""What to do now, told by every room."""

"""What every room uses, and nothing of what any room knows."""

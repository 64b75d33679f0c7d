"""What a finished bow tells."""

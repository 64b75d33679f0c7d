"""What is reckoned at the bench before the tiller."""

"""What to make: sizes solved for a weight, lengths, alterations, risks."""

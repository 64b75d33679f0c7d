"""The demo workshop."""

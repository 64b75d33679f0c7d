"""The design room."""

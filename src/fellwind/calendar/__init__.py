"""The calendar: what rests and when it is over, for phone and wall."""

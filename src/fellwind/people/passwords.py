"""Passwords that only look long."""

from django.contrib.auth.password_validation import CommonPasswordValidator
from django.core.exceptions import ValidationError

SHORT = 5  # a piece of so few characters, over and over, is no password


def piece(password: str) -> str:
    """The shortest piece that a password repeats from end to end, the last time perhaps cut off;
    itself where it repeats none.
    """
    for size in range(1, len(password) // 2 + 1):
        if (password[:size] * (len(password) // size + 1)).startswith(password):
            return password[:size]
    return password


class RepetitionValidator:
    """Refuses a short or a common piece that is written several times."""

    def __init__(self) -> None:
        self.common = CommonPasswordValidator().passwords

    def validate(self, password: str, user: object = None) -> None:
        """Raises ValidationError."""
        once = piece(password.lower().strip())
        if once != password.lower().strip() and (len(once) <= SHORT or once in self.common):
            raise ValidationError("This is one short piece, again and again; choose another.")

    def get_help_text(self) -> str:
        """What is asked, beside the field."""
        return "It is no short piece written several times."

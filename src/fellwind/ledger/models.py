"""What the book keeps of a finished bow: its bill, and the public link its maker switched on."""

import secrets

from django.conf import settings
from django.db import models
from django.utils import timezone

from fellwind.builds.models import Build
from fellwind.kit.versions import Versioned


class BowBill(Versioned):
    """What an hour costs on a bow, and the materials that went into it, as they were typed."""

    build = models.OneToOneField(Build, on_delete=models.CASCADE, related_name="bill")
    rate = models.DecimalField(max_digits=10, decimal_places=2, help_text="for an hour")
    money = models.CharField(max_length=8, blank=True)
    parts = models.TextField(blank=True, help_text="one a line, its price last")

    def __str__(self) -> str:
        return f"bill of {self.build}"


class PublicLink(models.Model):
    """A link that shows a bow's card to whoever has it; it is gone when it is switched off."""

    build = models.OneToOneField(Build, on_delete=models.CASCADE, related_name="public_link")
    token = models.CharField(max_length=40, unique=True)
    since = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)

    def __str__(self) -> str:
        return f"public link of {self.build}"

    @staticmethod
    def new_token() -> str:
        """A token nobody guesses."""
        return secrets.token_urlsafe(18)

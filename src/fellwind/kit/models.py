"""Forms that were taken, so that the same form sent twice counts once."""

import uuid
from datetime import timedelta

from django.conf import settings
from django.db import models
from django.utils import timezone


class SentForm(models.Model):
    """A form that was taken, by the id its page carried, and where it led."""

    LASTS = timedelta(days=7)
    form_id = models.UUIDField(primary_key=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    location = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(default=timezone.now, db_index=True)

    def __str__(self) -> str:
        return f"form sent to {self.location}"

    @classmethod
    def forget_old(cls) -> None:
        """Let go of the ids of forms that nobody sends again."""
        cls.objects.filter(at__lt=timezone.now() - cls.LASTS).delete()


def new_id() -> uuid.UUID:
    """A fresh id for a row whose browser made none."""
    return uuid.uuid4()

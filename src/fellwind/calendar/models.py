"""Links under which a calendar asks for what rests."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.db import models
from django.utils import timezone

from fellwind.people.models import Invitation


class Feed(models.Model):
    """One person's link to the calendar; only the hash of its token is kept."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="feeds"
    )
    digest = models.CharField(max_length=64, unique=True)
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["made", "pk"]

    def __str__(self) -> str:
        return f"calendar of {self.person}"

    @classmethod
    def issue(cls, person: models.Model) -> str:
        """Make a link for somebody and return its token, which is shown once."""
        token = secrets.token_urlsafe(24)
        cls.objects.create(person=person, digest=Invitation.digest_of(token))
        return token

    @classmethod
    def of(cls, token: str) -> Feed | None:
        """The link of a token whose person still has an account; None for any other."""
        found = cls.objects.filter(digest=Invitation.digest_of(token), person__is_active=True)
        return found.first()

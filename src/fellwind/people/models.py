"""Who signs in, and the links that let somebody in."""

import hashlib
import secrets
from collections.abc import Iterator
from datetime import timedelta

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone
from django.utils.crypto import salted_hmac

from fellwind.kit.permissions import GUEST, HELPER, MAKER


class Person(AbstractUser):
    """Somebody who signs in; what they may do follows from their role (``kit/permissions.py``)."""

    MAKER, HELPER, GUEST = MAKER, HELPER, GUEST
    WORLDS = [("imperial", "in · lb"), ("metric", "mm · kg")]
    THEMES = [("day", "day"), ("dusk", "dusk")]
    role = models.CharField(max_length=10, default=MAKER)
    world = models.CharField(max_length=10, choices=WORLDS, default="imperial")
    theme = models.CharField(max_length=5, choices=THEMES, default="day")
    epoch = models.PositiveIntegerField(default=0, help_text="counts how often all sessions ended")

    def get_session_auth_hash(self) -> str:
        """What a session must know to count: another password or another epoch ends it."""
        key = f"fellwind.people.session {self.epoch}"
        return salted_hmac(key, self.password, algorithm="sha256").hexdigest()

    def get_session_auth_fallback_hash(self) -> Iterator[str]:
        """Nothing of a former key counts."""
        return iter(())


class Invitation(models.Model):
    """A one-time link that makes an account; only the hash of its token is kept."""

    LASTS = timedelta(days=7)
    digest = models.CharField(max_length=64, unique=True)
    role = models.CharField(max_length=10, default=MAKER)
    made = models.DateTimeField(default=timezone.now)
    used = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"invitation for a {self.role}"

    @staticmethod
    def digest_of(token: str) -> str:
        """The hash that is kept of a token."""
        return hashlib.sha256(token.encode()).hexdigest()

    @classmethod
    def issue(cls, role: str) -> str:
        """Make an invitation and return its token, which is shown once."""
        token = secrets.token_urlsafe(24)
        cls.objects.create(digest=cls.digest_of(token), role=role)
        return token

    @classmethod
    def open_for(cls, token: str) -> "Invitation | None":
        """Find the unused, fresh invitation of a token."""
        since = timezone.now() - cls.LASTS
        return cls.objects.filter(digest=cls.digest_of(token), used=None, made__gt=since).first()

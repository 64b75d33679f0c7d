"""Instruments that may speak to this shop, and pulls that were traced."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.db import models
from django.utils import timezone

from bowyery.instruments.lines import KINDS
from fellwind.builds.models import Entry
from fellwind.people.models import Invitation


class Instrument(models.Model):
    """An instrument with its token, of which only the hash is kept. One taken back stays as a row
    that nothing can be sent to.
    """

    KINDS = [(kind, kind) for kind in KINDS]
    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=12, choices=KINDS, default="scale")
    digest = models.CharField(max_length=64, unique=True)
    made = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    gone = models.BooleanField(default=False, help_text="its token was taken back")
    heard = models.DateTimeField(null=True, blank=True, help_text="when it spoke last")
    good = models.PositiveIntegerField(default=0, help_text="lines that were read")
    bad = models.PositiveIntegerField(default=0, help_text="lines that were not")
    last_bad = models.CharField(max_length=200, blank=True, help_text="why the newest was not")

    class Meta:
        ordering = ["gone", "name", "pk"]

    def __str__(self) -> str:
        return self.name

    @classmethod
    def issue(cls, name: str, kind: str, by: models.Model | None) -> tuple[Instrument, str]:
        """Make an instrument and its token, which is shown once."""
        token = secrets.token_urlsafe(18)
        digest = Invitation.digest_of(token)
        return cls.objects.create(name=name, kind=kind, digest=digest, by=by), token

    @classmethod
    def of(cls, token: str) -> Instrument | None:
        """The instrument of a token that was not taken back."""
        return cls.objects.filter(digest=Invitation.digest_of(token), gone=False).first()


class TracedPull(models.Model):
    """The whole of a pull as scale and draw rule sent it: moments (s), ``w`` or ``d``, and values
    (N, m to the pivot).
    """

    entry = models.OneToOneField(Entry, on_delete=models.CASCADE, related_name="traced_pull")
    samples = models.JSONField()

    def __str__(self) -> str:
        return f"pull: {self.entry}"

"""Practice sessions: which stave, and what was done to it. Everything else is worked out anew."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from bowyery.practice.worlds import HIGHEST_SEED, PATTERNS, TROUBLES, WOODS, Setup


class Session(models.Model):
    """Somebody's session at one practice stave. Nothing of the shop's records is in it."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="practice_sessions"
    )
    pattern = models.CharField(max_length=20, choices=[(k, p.name) for k, p in PATTERNS.items()])
    wood = models.CharField(max_length=40, choices=[(one, one) for one in WOODS])
    trouble = models.CharField(max_length=20, choices=list(TROUBLES.items()))
    seed = models.PositiveIntegerField(help_text=f"1 to {HIGHEST_SEED}")
    errors = models.BooleanField(default=True, help_text="the learner's own hands err, too")
    lesson = models.CharField(max_length=40, blank=True)
    begun = models.DateTimeField(default=timezone.now)
    changed = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-changed", "-pk"]

    def __str__(self) -> str:
        return f"practice {self.pk}: {self.trouble}, seed {self.seed}"

    @property
    def setup(self) -> Setup:
        """Which stave."""
        return Setup(self.pattern, self.wood, self.trouble, self.seed, self.errors, self.lesson)


class Done(models.Model):
    """One act of a session, in its place."""

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="acts")
    number = models.PositiveIntegerField(help_text="from 1")
    data = models.JSONField(help_text="as of bowyery.practice.session.Act.as_data")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["session", "number"], name="one_act_in_each_place")
        ]

    def __str__(self) -> str:
        return f"act {self.number} of {self.session}"

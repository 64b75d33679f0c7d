"""The shop: its people, its air, its gear, and the archers it builds for."""

import hashlib
import secrets
import uuid

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone

RULERS = {"pivot": "to the deepest part of the grip", "trade": "trade draw: that plus 1¾ in", "back": "to the back"}
FINGERS = {"one above, two below": "one finger above the arrow, two below", "three under": "three under the arrow"}


class Person(AbstractUser):
    """Somebody who signs in: a maker does everything, a helper writes at the bench, a guest only reads."""

    MAKER, HELPER, GUEST = "maker", "helper", "guest"
    role = models.CharField(max_length=10, choices=[(MAKER, "maker"), (HELPER, "helper"), (GUEST, "guest")], default=MAKER)
    world = models.CharField(max_length=10, choices=[("imperial", "in · lb"), ("metric", "mm · kg")], default="imperial")
    theme = models.CharField(max_length=5, choices=[("day", "day"), ("dusk", "dusk")], default="day")

    @property
    def may_write(self) -> bool:
        return self.role in (self.MAKER, self.HELPER)

    @property
    def is_maker(self) -> bool:
        return self.role == self.MAKER


class Workshop(models.Model):
    """The one shop: its name, air, paper, and what its bows lose between tiller and shot-in."""

    name = models.CharField(max_length=80, default="The workshop")
    air_celsius = models.FloatField(default=18.0, help_text="°C")
    air_humidity = models.FloatField(default=0.55, help_text="relative, 0 to 1")
    denominator = models.PositiveSmallIntegerField(default=16, choices=[(16, "1/16 in"), (32, "1/32 in")])
    paper = models.CharField(max_length=6, default="A4", choices=[("A4", "A4"), ("Letter", "Letter")])
    finishing_loss = models.FloatField(default=0.045)
    shooting_loss = models.FloatField(default=0.04)

    def __str__(self) -> str:
        return self.name

    @classmethod
    def get(cls) -> "Workshop":
        """Return the shop, made with its defaults when there is none yet."""
        return cls.objects.get_or_create(pk=1)[0]


class Archer(models.Model):
    """Who a bow is for. The draw is kept to the pivot (m), with the text and the ruler it was given in."""

    name = models.CharField(max_length=80)
    left_handed = models.BooleanField(default=False)
    draw = models.FloatField(help_text="m, nocking point to pivot")
    draw_text = models.CharField(max_length=40)
    draw_ruler = models.CharField(max_length=6, choices=list(RULERS.items()), default="pivot")
    weight = models.FloatField(help_text="N, wanted at that draw")
    weight_text = models.CharField(max_length=40)
    fingers = models.CharField(max_length=24, choices=list(FINGERS.items()), default="one above, two below")
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Gear(models.Model):
    """Something a pull on the tree hangs on, with the load it is rated for (N)."""

    KINDS = {"rope": 1.0, "pulley": 2.0, "hook": 1.0, "scale": 1.0, "tree": 1.0}
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, choices=[(k, k) for k in KINDS])
    rating = models.FloatField(help_text="N")
    rating_text = models.CharField(max_length=40)
    in_use = models.BooleanField(default=True)

    class Meta:
        ordering = ["kind", "name"]

    def __str__(self) -> str:
        return self.name


class Invitation(models.Model):
    """A one-time link that makes an account; only the hash of its token is kept."""

    digest = models.CharField(max_length=64, unique=True)
    role = models.CharField(max_length=10, default=Person.MAKER)
    made = models.DateTimeField(default=timezone.now)
    used = models.DateTimeField(null=True, blank=True)
    LASTS = timezone.timedelta(days=7)

    def __str__(self) -> str:
        return f"invitation for a {self.role}"

    @staticmethod
    def digest_of(token: str) -> str:
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
        return cls.objects.filter(digest=cls.digest_of(token), used=None, made__gt=timezone.now() - cls.LASTS).first()


class SentForm(models.Model):
    """A form that was taken, by the id its page carried, so that the same form sent twice counts once."""

    form_id = models.UUIDField(primary_key=True)
    person = models.ForeignKey(Person, on_delete=models.CASCADE)
    location = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"form sent to {self.location}"


def new_id() -> uuid.UUID:
    """A fresh id for an entry whose browser made none."""
    return uuid.uuid4()

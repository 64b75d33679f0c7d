"""Strings, the threads they are made of, and what was read of both."""

from __future__ import annotations

from uuid import uuid4

from django.conf import settings
from django.db import models
from django.urls import reverse
from django.utils import timezone

from bowyery.strings.kinds import STRING_KINDS
from bowyery.strings.strength import RULES
from bowyery.strings.thread import SERVING_THREAD
from fellwind.builds.models import Build
from fellwind.kit.versions import Versioned


class Thread(Versioned):
    """A thread of the shop: what it is of, how fine, its colour, and how much is left."""

    name = models.CharField(max_length=60, unique=True)
    fibre = models.CharField(max_length=40, help_text="as the book has it")
    line_mass = models.FloatField(null=True, blank=True, help_text="kg/m; none: the book's")
    colour = models.CharField(max_length=30, blank=True)
    stock = models.FloatField(null=True, blank=True, help_text="kg left")
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class StrandTest(models.Model):
    """A strand, or a twisted strip, pulled until it broke. Never overwritten: one noted by mistake
    is struck by a row that points to it.
    """

    thread = models.ForeignKey(Thread, on_delete=models.CASCADE, related_name="tests")
    width = models.FloatField(null=True, blank=True, help_text="m; of a strip")
    width_text = models.CharField(max_length=40, blank=True)
    load = models.FloatField(null=True, help_text="N; none where it strikes another")
    load_text = models.CharField(max_length=40)
    day = models.DateField(default=timezone.localdate)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    written = models.DateTimeField(default=timezone.now)
    strikes = models.OneToOneField(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="struck_by"
    )

    class Meta:
        ordering = ["day", "written", "pk"]

    def __str__(self) -> str:
        return f"{self.load_text} broke a {'strip' if self.width else 'strand'}"


class BowString(Versioned):
    """A string of a bow: what was asked for. What is empty is left to its plan. Lengths in m."""

    ROLES = {
        "working": "working string",
        "spare": "its spare",
        "later": "a later string",
        "tillering": "tillering string",
        "bracing": "bracing string",
        "cable": "cable of the back-bow",
    }
    COLOURS = {
        "": "as the thread",
        "slate": "slate",
        "heather": "heather",
        "moss": "moss",
        "bracken": "bracken",
        "gorse": "gorse",
        "undyed": "undyed",
    }
    DIRECTIONS = [("right", "to the right"), ("left", "to the left")]
    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="bowstrings")
    role = models.CharField(max_length=10, choices=list(ROLES.items()), default="working")
    like = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="matched"
    )
    kind = models.CharField(max_length=30, default=next(iter(STRING_KINDS)))
    fibre = models.CharField(max_length=40)
    thread = models.ForeignKey(Thread, on_delete=models.PROTECT, null=True, blank=True)
    strands = models.PositiveIntegerField(
        null=True, blank=True, help_text="the maker's own number, or none"
    )
    plies = models.PositiveSmallIntegerField(null=True, blank=True)
    strip = models.FloatField(null=True, blank=True, help_text="width of each strip of hide")
    rule = models.CharField(max_length=10, choices=list(RULES.items()), default="highest")
    turns = models.PositiveIntegerField(null=True, blank=True)
    direction = models.CharField(max_length=5, choices=DIRECTIONS, default="right")
    colour_one = models.CharField(max_length=10, choices=list(COLOURS.items()), blank=True)
    colour_two = models.CharField(max_length=10, choices=list(COLOURS.items()), blank=True)
    brace_height = models.FloatField(help_text="wanted")
    own_length = models.FloatField(null=True, blank=True, help_text="nock to nock")
    loop_upper = models.FloatField(null=True, blank=True)
    loop_lower = models.FloatField(null=True, blank=True)
    throat = models.FloatField(null=True, blank=True, help_text="served below each loop")
    serving = models.FloatField(null=True, blank=True)
    serving_above = models.FloatField(null=True, blank=True, help_text="of the square place")
    nock_above = models.FloatField(null=True, blank=True, help_text="the square place")
    serving_thread = models.FloatField(default=SERVING_THREAD, help_text="kg/m")
    pieces = models.PositiveSmallIntegerField(null=True, blank=True)
    piece = models.FloatField(null=True, blank=True)
    silencers = models.FloatField(default=0.0, help_text="kg, both")
    silencers_at = models.FloatField(null=True, blank=True, help_text="from either nock")
    made = models.DateTimeField(default=timezone.now)
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["build", "pk"]
        verbose_name = "string"

    def __str__(self) -> str:
        return f"{self.get_role_display()} of {self.build}"

    def get_absolute_url(self) -> str:
        """Of its own page."""
        return reverse("strings:detail", args=[self.pk])

    @property
    def of(self) -> str:
        """What its strands are of, in words."""
        return self.thread.name if self.thread else self.fibre


class StringEntry(models.Model):
    """One thing read of a string or done to it, kept as typed. A correction strikes the old one.

    The value is in SI, or a count; ``second`` is what goes with it: the load of a length, the brace
    of a test cord, the place of a broken strand.
    """

    KINDS = {
        "brace": "brace height",
        "twist": "turns put in",
        "shorter": "made shorter at a loop",
        "length": "length under load",
        "stretch": "stretch under load",
        "mass": "mass",
        "serving": "centre serving",
        "nocking point": "nocking point above the square",
        "upper gap": "upper gap",
        "lower gap": "lower gap",
        "off the grip": "off the middle of the grip",
        "fit": "how it lies",
        "cord": "test cord",
        "shots": "shots",
        "waxed": "waxed again",
        "served": "served anew",
        "strand": "strand broken",
        "broke": "it broke",
        "put away": "put away",
        "step": "step done",
    }
    string = models.ForeignKey(BowString, on_delete=models.CASCADE, related_name="entries")
    kind = models.CharField(max_length=20, choices=list(KINDS.items()))
    value = models.FloatField(null=True, blank=True)
    second = models.FloatField(null=True, blank=True)
    pulls = models.PositiveIntegerField(
        null=True, blank=True, help_text="since the string was new, at a brace height"
    )
    text = models.CharField(max_length=120, help_text="as typed")
    world = models.CharField(max_length=10, default="imperial")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    client_id = models.UUIDField(unique=True, default=uuid4)
    strikes = models.OneToOneField(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="struck_by"
    )

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return self.text

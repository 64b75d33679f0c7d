"""Bows being built: the build, and its log of entries as they were written."""

from datetime import timedelta
from typing import ClassVar

from django.conf import settings
from django.db import models
from django.utils import timezone

from bowyery.bow.bow import SIDES
from bowyery.making.stages import NAMES as STAGES
from bowyery.record.inquest import HOWS
from bowyery.units.draw_ruler import DRAW_RULERS, PIVOT
from bowyery.units.quantity import IMPERIAL, METRIC
from fellwind.designs.models import Design
from fellwind.kit.models import new_id
from fellwind.kit.versions import Versioned
from fellwind.rack.models import Stave


class Build(models.Model):
    """One bow on its way from stave to proof."""

    resting: list["Wait"]  # what hangs from its string, and minutes spent: where lists ask
    spent: int | None

    ENDINGS = {
        "finished": "finished",
        "sold": "sold",
        "given": "given away",
        "broken": "broken",
        "aside": "set aside",
        "cut down": "cut down into another",
    }
    CHOSEN: ClassVar = {"stage": STAGES, "draw_ruler": DRAW_RULERS, "ending": ("", *ENDINGS)}
    number = models.PositiveIntegerField(unique=True)
    name = models.CharField(max_length=80)
    design = models.ForeignKey(Design, on_delete=models.PROTECT, related_name="builds")
    stave = models.ForeignKey(
        Stave, on_delete=models.PROTECT, null=True, blank=True, related_name="builds"
    )
    stage = models.CharField(max_length=10, default=STAGES[0])
    school = models.CharField(
        max_length=1, choices=[("W", "W, by weight"), ("D", "D, by draw")], default="W"
    )
    beginner = models.BooleanField(default=False)
    floor = models.FloatField(
        null=True, blank=True, help_text="finished weight that evening may not go below (N)"
    )
    draw_ruler = models.CharField(max_length=6, default=PIVOT.key)
    tool = models.CharField(max_length=40, blank=True, help_text="in hand; empty: as it suits")
    laid = models.JSONField(null=True, blank=True, help_text="the place in the stave taken over")
    started = models.DateTimeField(default=timezone.now)
    finished = models.DateTimeField(null=True, blank=True, help_text="closed, however it ended")
    ending = models.CharField(max_length=10, blank=True, help_text="a key of ENDINGS")
    ending_words = models.CharField(max_length=200, blank=True)
    became = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="cut_from"
    )

    class Meta:
        ordering = ["-number"]

    def __str__(self) -> str:
        return f"number {self.number}, {self.name}"

    @property
    def ended(self) -> str:
        """How it ended, in words; nothing while it goes on."""
        if self.finished is None:
            return ""
        return self.ENDINGS.get(self.ending, "finished")

    @property
    def tree(self) -> str:
        """That its stave is from; nothing where it has none."""
        stave = self.stave or self.design.stave
        return stave.grew_on if stave else ""

    @property
    def stage_index(self) -> int:
        return STAGES.index(self.stage)


class Entry(models.Model):
    """One thing written at the bench, kept as typed. A correction is a new entry that points to the
    old one.
    """

    KINDS = [
        (k, k) for k in ("bench", "stage", "tick", "proof", "string", "wait", "finish", "photo")
    ]
    CHOSEN: ClassVar = {"stage": STAGES, "world": (IMPERIAL, METRIC)}
    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="entries")
    kind = models.CharField(max_length=10, choices=KINDS, default="bench")
    stage = models.CharField(max_length=10)
    text = models.TextField()
    world = models.CharField(max_length=10, default="imperial")
    minutes = models.PositiveIntegerField(default=0)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    client_id = models.UUIDField(unique=True, default=new_id)
    corrects = models.OneToOneField(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="corrected_by"
    )

    class Meta:
        ordering = ["at", "pk"]
        indexes = [models.Index(fields=["build", "at"])]
        constraints = [
            models.UniqueConstraint(
                fields=["build", "text"], condition=models.Q(kind="tick"), name="one_tick"
            )
        ]

    def __str__(self) -> str:
        return self.text


class Measure(models.Model):
    """One figure of an entry: what kind, where, its value in SI and the text it was typed as."""

    entry = models.ForeignKey(Entry, on_delete=models.CASCADE, related_name="measures")
    kind = models.CharField(max_length=24, help_text="of a statement, or of a figure of the proof")
    limb = models.CharField(max_length=5, blank=True)
    value = models.FloatField(null=True, help_text="none where it was not written")
    draw = models.FloatField(null=True, blank=True, help_text="m, to the pivot")
    start = models.FloatField(null=True, blank=True, help_text="m from the centre")
    end = models.FloatField(null=True, blank=True)
    more = models.FloatField(null=True, blank=True, help_text="a second figure, in SI")
    how = models.CharField(max_length=40, blank=True, help_text="face, side, colour, look, stuff")
    tool = models.CharField(max_length=40, blank=True, help_text="that took the wood")
    text = models.CharField(max_length=80)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.text


class BenchPhoto(models.Model):
    """A photograph taken at the bench; its entry says when, at which stage and what it shows. Its
    files stay where it is taken off the page.
    """

    entry = models.OneToOneField(Entry, on_delete=models.CASCADE, related_name="photo")
    name = models.CharField(max_length=40, unique=True, help_text="of its file, without the ending")
    width = models.PositiveIntegerField(help_text="pixels")
    height = models.PositiveIntegerField()
    gone = models.BooleanField(default=False)

    def __str__(self) -> str:
        return f"photograph: {self.entry}"


SHORT = timedelta(hours=3)


class Wait(models.Model):
    """Something that rests: drying, curing, cooling. It hangs from the string of knots until it is
    over.
    """

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="waits")
    what = models.CharField(max_length=120)
    since = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField()
    ended = models.DateTimeField(null=True, blank=True)
    least = models.FloatField(null=True, blank=True, help_text="hours, where a rest says so")
    most = models.FloatField(null=True, blank=True, help_text="hours")
    after = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="followers"
    )

    class Meta:
        ordering = ["until", "pk"]

    def __str__(self) -> str:
        return self.what

    @property
    def short(self) -> bool:
        """Whether it is told in minutes: a clock to watch, and not a day to wait for."""
        return self.until - self.since <= SHORT


class HeatJob(models.Model):
    """A limb bent or straightened by heat: what was wanted, how far the form was bent, what stayed.

    Amounts in m at the tip, or rad of a twist; places from the bow's centre (m).
    """

    WHATS = {
        "reflex": "reflex, tips to the back", "deflex": "deflex, tips to the belly",
        "twist": "a twist taken out", "side": "a sideways bend taken out",
    }  # fmt: skip
    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="heat_jobs")
    what = models.CharField(max_length=8, choices=list(WHATS.items()))
    limb = models.CharField(max_length=5)
    way = models.CharField(max_length=12)
    wood = models.CharField(max_length=40)
    wanted = models.FloatField()
    form = models.FloatField()
    start = models.FloatField()
    end = models.FloatField()
    stayed = models.FloatField(null=True, blank=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.what}, {self.limb}"


class Inquest(Versioned):
    """How and where a bow broke, and what its maker judged. Lengths in m."""

    build = models.OneToOneField(Build, on_delete=models.CASCADE, related_name="inquest")
    how = models.CharField(max_length=10, choices=list(HOWS.items()))
    limb = models.CharField(max_length=5, choices=[(s, s) for s in SIDES])
    place = models.FloatField(help_text="from the bow's centre")
    draw = models.FloatField(null=True, blank=True, help_text="to the pivot")
    judged = models.CharField(max_length=14, blank=True, help_text="a cause, as the maker judges")
    words = models.TextField(blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)

    def __str__(self) -> str:
        return f"inquest on {self.build}"

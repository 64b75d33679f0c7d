"""Staves in the rack, and their weighings."""

from typing import ClassVar, TypeVar

from django.conf import settings
from django.db import models
from django.utils import timezone

from bowyery.wood.stave import FACES, FLAWS, KINDS, SAWN
from fellwind.kit.models import new_id
from fellwind.kit.versions import Versioned


class Stave(Versioned):
    """A piece of stock. Sizes in m; overrides of the book values in SI, at 12 % moisture."""

    CHOSEN: ClassVar = {"kind": KINDS}
    KINDS = [(k, k) for k in KINDS]
    number = models.PositiveIntegerField(unique=True)
    kind = models.CharField(max_length=20, default="log split")
    material = models.CharField(max_length=40)
    length = models.FloatField()
    length_text = models.CharField(max_length=40)
    width = models.FloatField()
    width_text = models.CharField(max_length=40)
    depth = models.FloatField()
    depth_text = models.CharField(max_length=40)
    reflex = models.FloatField(
        default=0.0, help_text="m; natural, of the tips towards the back; deflex is negative"
    )
    modulus = models.FloatField(null=True, blank=True)
    rupture = models.FloatField(null=True, blank=True)
    density = models.FloatField(null=True, blank=True)
    acquired = models.DateField(default=timezone.localdate)
    source = models.CharField(max_length=120, blank=True, help_text="where from")
    tree = models.CharField(max_length=60, blank=True, help_text="or board that it was split from")
    price = models.CharField(max_length=40, blank=True)
    bought_at = models.FloatField(
        null=True, blank=True, help_text="moisture when it came, as a fraction"
    )
    ring = models.FloatField(null=True, blank=True, help_text="m; width of a growth ring")
    late_share = models.FloatField(null=True, blank=True, help_text="late wood's share of a ring")
    sapwood = models.FloatField(null=True, blank=True, help_text="m; depth below the back")
    drift = models.FloatField(
        null=True, blank=True, help_text="m; how far the grain drifts to the side"
    )
    drift_over = models.FloatField(null=True, blank=True, help_text="m; over this length")
    wall = models.FloatField(null=True, blank=True, help_text="m; of a bamboo culm")
    cut_left = models.FloatField(default=0.0, help_text="m; sliced off the left end")
    cut_right = models.FloatField(default=0.0)
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["-number"]

    def __str__(self) -> str:
        return f"stave {self.number}, {self.material}"

    @property
    def grew_on(self) -> str:
        """Names its tree; a stave whose tree nobody named is one of its own."""
        return self.tree.strip().lower() or f"stave {self.number}"

    @property
    def sawn(self) -> bool:
        """Its sides are straight and square, and it has no bark."""
        return self.kind in SAWN


class Weighing(models.Model):
    """A stave on the scale, under the meter, or both, on a day. Never overwritten: a correction
    points to the old row.
    """

    stave = models.ForeignKey(Stave, on_delete=models.CASCADE, related_name="weighings")
    day = models.DateField(default=timezone.localdate)
    mass = models.FloatField(null=True, blank=True, help_text="kg")
    text = models.CharField(max_length=40, blank=True, help_text="the mass as written")
    meter = models.FloatField(null=True, blank=True, help_text="moisture by a meter, as a fraction")
    meter_text = models.CharField(max_length=40, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    written = models.DateTimeField(default=timezone.now)
    client_id = models.UUIDField(unique=True, default=new_id)
    corrects = models.OneToOneField(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="corrected_by"
    )

    class Meta:
        ordering = ["day", "written"]

    def __str__(self) -> str:
        return f"{self.words} on {self.day}"

    @property
    def words(self) -> str:
        """What was written down."""
        return ", ".join(filter(None, (self.text, self.meter_text and f"meter {self.meter_text}")))


Row = TypeVar("Row", bound=models.Model)


class Standing(models.QuerySet[Row]):
    """Rows that nothing has taken the place of."""

    def standing(self) -> "Standing[Row]":
        return self.filter(replaced_by=None, gone=False)


class Kept(models.Model):
    """A row that is never written over: what takes its place is a new row, and the old one points
    to it.
    """

    text = models.CharField(max_length=200)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    written = models.DateTimeField(default=timezone.now)
    gone = models.BooleanField(default=False, help_text="cut away, or noted by mistake")
    replaced_by = models.OneToOneField(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="replaces"
    )
    replaced_by_id: int | None
    objects = Standing.as_manager()

    class Meta:
        abstract = True
        ordering = ["at"]

    @property
    def stands(self) -> bool:
        """Whether it counts; for rows already fetched."""
        return self.replaced_by_id is None and not self.gone


class Flaw(Kept):
    """A flaw on a stave. Moved or sized anew it is a new row. Lengths in m."""

    KINDS = [(k, k) for k in FLAWS]
    FACES = [(f, f) for f in FACES]
    stave = models.ForeignKey(Stave, on_delete=models.CASCADE, related_name="flaws")
    kind = models.CharField(max_length=20)
    face = models.CharField(max_length=10, default="back")
    at = models.FloatField(help_text="from the left end, seen from the back")
    off = models.FloatField(default=0.0, help_text="across, towards the upper edge as drawn")
    length = models.FloatField()
    width = models.FloatField()
    depth = models.FloatField()

    def __str__(self) -> str:
        return f"{self.kind} at {self.text}"


class Section(Kept):
    """What was measured across a stave at one place; nothing where it was not. Lengths in m, twist
    in degrees.
    """

    stave = models.ForeignKey(Stave, on_delete=models.CASCADE, related_name="sections")
    at = models.FloatField()
    width = models.FloatField(null=True, blank=True)
    depth = models.FloatField(null=True, blank=True)
    crown = models.FloatField(null=True, blank=True, help_text="radius of the back")
    side = models.FloatField(
        null=True, blank=True, help_text="off a straight string, towards the belly"
    )
    sideways = models.FloatField(
        null=True, blank=True, help_text="off a straight string, towards the upper edge"
    )
    twist = models.FloatField(null=True, blank=True, help_text="against the left end")

    def __str__(self) -> str:
        return f"section at {self.text}"


class Photo(models.Model):
    """A photograph of a stave. Its file lies in the photographs' folder; taken off the page, the
    row stays.
    """

    stave = models.ForeignKey(Stave, on_delete=models.CASCADE, related_name="photos")
    name = models.CharField(max_length=40, unique=True, help_text="of its file, without the ending")
    caption = models.CharField(max_length=200)
    at = models.FloatField(
        null=True, blank=True, help_text="m; from the left end, where it shows one place"
    )
    width = models.PositiveIntegerField(help_text="pixels")
    height = models.PositiveIntegerField()
    day = models.DateField(default=timezone.localdate)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    written = models.DateTimeField(default=timezone.now)
    gone = models.BooleanField(default=False)

    class Meta:
        ordering = ["day", "written"]

    def __str__(self) -> str:
        return f"photograph of {self.stave}: {self.caption}"


class StripTest(models.Model):
    """A strip of the stave bent over two supports. SI; ``moisture`` is that of the strip, as a
    fraction.
    """

    stave = models.ForeignKey(Stave, on_delete=models.CASCADE, related_name="strip_tests")
    span = models.FloatField()
    load = models.FloatField()
    sag = models.FloatField()
    width = models.FloatField()
    depth = models.FloatField()
    length = models.FloatField(null=True, blank=True)
    mass = models.FloatField(null=True, blank=True)
    moisture = models.FloatField(default=0.12)
    text = models.CharField(max_length=200)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    written = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-written"]

    def __str__(self) -> str:
        return f"strip of {self.stave}: {self.text}"

"""Staves in the rack, and their weighings."""

from django.conf import settings
from django.db import models
from django.utils import timezone

from fellwind.workshop.models import new_id


class Stave(models.Model):
    """A piece of stock. Sizes in m; overrides of the book values in SI, at 12 % moisture."""

    KINDS = [(k, k) for k in ("log split", "sapling", "board", "bamboo slat", "lamination")]
    number = models.PositiveIntegerField(unique=True)
    kind = models.CharField(max_length=20, choices=KINDS, default="log split")
    material = models.CharField(max_length=40)
    length = models.FloatField()
    length_text = models.CharField(max_length=40)
    width = models.FloatField()
    width_text = models.CharField(max_length=40)
    depth = models.FloatField()
    depth_text = models.CharField(max_length=40)
    moisture = models.FloatField(null=True, blank=True, help_text="last meter reading, as a fraction")
    reflex = models.FloatField(default=0.0, help_text="m; natural, of the tips towards the back; deflex is negative")
    modulus = models.FloatField(null=True, blank=True)
    rupture = models.FloatField(null=True, blank=True)
    density = models.FloatField(null=True, blank=True)
    acquired = models.DateField(default=timezone.localdate)
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["-number"]

    def __str__(self) -> str:
        return f"stave {self.number}, {self.material}"


class Weighing(models.Model):
    """A stave on the scale. Never overwritten: a correction is a new row that points to the old one."""

    stave = models.ForeignKey(Stave, on_delete=models.CASCADE, related_name="weighings")
    day = models.DateField(default=timezone.localdate)
    mass = models.FloatField(help_text="kg")
    text = models.CharField(max_length=40)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True)
    written = models.DateTimeField(default=timezone.now)
    client_id = models.UUIDField(unique=True, default=new_id)
    corrects = models.OneToOneField("self", on_delete=models.PROTECT, null=True, blank=True, related_name="corrected_by")

    class Meta:
        ordering = ["day", "written"]

    def __str__(self) -> str:
        return f"{self.text} on {self.day}"

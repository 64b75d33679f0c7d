"""Designs: what a bow is to be, before and while it is built."""

from django.db import models
from django.utils import timezone

from bowyery.layout import BEND_FAMILIES
from bowyery.units import INCH
from fellwind.staves.models import Stave
from fellwind.workshop.models import FINGERS, Archer

# Sections whose stiffness goes with the cube of the depth at a given width, as the design's inverse takes it.
SECTIONS = ("rectangle", "flat back, round belly")


class Design(models.Model):
    """A parallel-then-taper bow for an archer. Lengths in m, weights in N.

    What it comes to is computed from these figures and kept only in the cache of core results.
    """

    name = models.CharField(max_length=80)
    archer = models.ForeignKey(Archer, on_delete=models.PROTECT, related_name="designs")
    stave = models.ForeignKey(Stave, on_delete=models.SET_NULL, null=True, blank=True, related_name="designs")
    material = models.CharField(max_length=40)
    moisture = models.FloatField(default=0.09)

    weight = models.FloatField()
    draw = models.FloatField()
    fingers = models.CharField(max_length=24, choices=list(FINGERS.items()))
    brace_height = models.FloatField(default=6 * INCH)
    family = models.CharField(max_length=20, choices=[(k, k) for k in BEND_FAMILIES], default="elliptical")

    length = models.FloatField()
    handle = models.FloatField(default=4 * INCH)
    fade = models.FloatField(default=2 * INCH)
    width = models.FloatField(default=1.75 * INCH)
    tip_width = models.FloatField(default=0.5 * INCH)
    parallel = models.FloatField(default=0.5)
    grip_drop = models.FloatField(default=0.0)
    handle_depth = models.FloatField(default=1.75 * INCH)
    least_tip = models.FloatField(default=0.3125 * INCH)
    reflex = models.FloatField(default=0.0)
    section = models.CharField(max_length=30, choices=[(k, k) for k in SECTIONS], default="rectangle")
    marked_in = models.CharField(
        max_length=10,
        choices=[("imperial", "shop fractions (64ths)"), ("metric", "millimetres (half steps)")],
        default="imperial",
    )
    made = models.DateTimeField(default=timezone.now)
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["-made"]

    def __str__(self) -> str:
        return self.name

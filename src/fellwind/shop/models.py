"""The shop: its air, its gear, and the archers it builds for."""

from typing import ClassVar

from django.db import models
from django.utils import timezone

from bowyery.bow.layout import UPPER_FULLER
from bowyery.making.rests import KINDS as REST_KINDS
from bowyery.tiller.bite import TOOLS, USUAL_TOOL
from bowyery.tiller.forecast import Losses
from bowyery.units.draw_ruler import DRAW_RULERS, PIVOT
from fellwind.kit.versions import Versioned

DRAW_RULER_CHOICES = [(one.key, one.words) for one in DRAW_RULERS.values()]
AIR_WORDS = {
    "none": "keeps to the clock",
    "cures": "faster in the warm: twice for every 10 °C (18 °F)",
    "dries": "as fast as the air takes water up",
}
_FINGERS_WORDS = {
    "one above, two below": "one finger above the arrow, two below",
    "three under": "three under the arrow",
}
FINGERS = {key: _FINGERS_WORDS.get(key, key) for key in UPPER_FULLER}
USUAL_FINGERS = next(iter(FINGERS))
USUAL_LOSSES = Losses()


class Workshop(Versioned):
    """The one shop: its name, air, paper, and what its bows lose between tiller and shot-in."""

    name = models.CharField(max_length=80, default="The workshop")
    air_celsius = models.FloatField(default=18.0, help_text="°C")
    air_humidity = models.FloatField(default=0.55, help_text="relative, 0 to 1")
    denominator = models.PositiveSmallIntegerField(
        default=16, choices=[(16, "1/16 in"), (32, "1/32 in")]
    )
    paper = models.CharField(
        max_length=6, default="A4", choices=[("A4", "A4"), ("Letter", "Letter")]
    )
    finishing_loss = models.FloatField(default=USUAL_LOSSES.finishing)
    shooting_loss = models.FloatField(default=USUAL_LOSSES.shooting)
    jig = models.FloatField(null=True, blank=True, help_text="m; the string jig's longest reach")
    backup_folder = models.CharField(
        max_length=300, blank=True, help_text="where daily backups go; empty: with the data"
    )

    def __str__(self) -> str:
        return self.name

    @classmethod
    def get(cls) -> "Workshop":
        """Return the shop, made with its defaults when there is none yet."""
        return cls.objects.get_or_create(pk=1)[0]


class Backup(models.Model):
    """A daily backup that was made, or why there is none."""

    at = models.DateTimeField(default=timezone.now)
    path = models.CharField(max_length=400, blank=True)
    size = models.PositiveBigIntegerField(default=0, help_text="bytes")
    trouble = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return self.trouble or self.path


class OwnMaterial(Versioned):
    """A wood, bamboo, backing or thread that the shop knows and the book does not (SI, at 12 %
    moisture).
    """

    KINDS = {
        "wood": "a wood",
        "bamboo": "a bamboo",
        "backing": "a backing of fibre or hide",
        "horn": "horn",
        "glass": "glass in resin",
        "plastic": "a plastic",
        "natural thread": "thread of plant or animal fibre",
        "smooth thread": "thread of drawn filaments",
    }
    THREADS = ("natural thread", "smooth thread")

    name = models.CharField(max_length=40, unique=True)
    kind = models.CharField(max_length=20, choices=list(KINDS.items()), default="wood")
    modulus = models.FloatField(null=True, blank=True)
    rupture = models.FloatField(null=True, blank=True)
    density = models.FloatField(null=True, blank=True)
    work = models.FloatField(null=True, blank=True, help_text="to maximum load")
    line_mass = models.FloatField(null=True, blank=True, help_text="of a strand")
    breaking = models.FloatField(null=True, blank=True, help_text="of a strand")
    stretch = models.FloatField(null=True, blank=True)
    source = models.CharField(max_length=200, blank=True)
    caution = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    @property
    def is_thread(self) -> bool:
        return self.kind in self.THREADS


class Archer(Versioned):
    """Who a bow is for. The draw is kept to the pivot (m), with the text and the ruler it was given
    in.
    """

    CHOSEN: ClassVar = {"draw_ruler": DRAW_RULERS, "fingers": FINGERS}
    name = models.CharField(max_length=80)
    left_handed = models.BooleanField(default=False)
    draw = models.FloatField(help_text="m, nocking point to pivot")
    draw_text = models.CharField(max_length=40)
    draw_ruler = models.CharField(max_length=6, default=PIVOT.key)
    weight = models.FloatField(help_text="N, wanted at that draw")
    weight_text = models.CharField(max_length=40)
    fingers = models.CharField(max_length=24, default=USUAL_FINGERS)
    notes = models.TextField(blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Tool(Versioned):
    """A tool of the shop's own, that takes about as much at a stroke as one of the usual ones."""

    name = models.CharField(max_length=40, unique=True)
    like = models.CharField(
        max_length=20, choices=[(name, name) for name in TOOLS], default=USUAL_TOOL
    )

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class OwnRest(Versioned):
    """How long something rests in this shop: in place of the book's, or beside them (hours)."""

    name = models.CharField(max_length=60, unique=True)
    what = models.CharField(max_length=10, choices=[(k, k) for k in REST_KINDS], default="other")
    low = models.FloatField()
    usual = models.FloatField()
    high = models.FloatField()
    air = models.CharField(max_length=6, choices=list(AIR_WORDS.items()), default="none")
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Gear(Versioned):
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

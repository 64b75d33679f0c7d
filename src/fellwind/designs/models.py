"""Designs: what a bow is to be, before and while it is built."""

import math

from django.db import models
from django.utils import timezone

from bowyery.bow.layout import BRACE_HEIGHT
from bowyery.design.solve import USUAL_FIBRE
from bowyery.units.quantity import IMPERIAL, INCH, METRIC, World
from bowyery.wood.materials import SEASONED
from fellwind.kit.versions import Versioned
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer

GREEN = SEASONED  # moisture from which wood is worked green
USUAL_RADIUS = {
    "crowned back": 0.06,
    "culm segment": 0.045,
    "culm segment, skin to the belly": 0.045,
}  # of a small log and of a stout culm (m)
ROUND_STOCK = tuple(USUAL_RADIUS)
CENTRE_LINES = {"follow": "following the grain", "straight": "straight from nock to nock"}
BACKS = {"bark": "as it grew under the bark", "ring": "one ring, chased", "sawn": "as sawn"}
FADES = {
    "straight": "straight",
    "smooth": "smooth, in a double curve",
    "hollow": "hollow, like a spoon",
}
NOCKS = {
    "side": "grooves in the sides",
    "pin": "a pin with shoulders",
    "overlay": "an overlay with a groove over the back",
}
PLACES_FROM = {"centre": "from the centre", "tip": "from the nock"}
SOLVE_FOR = {
    "thickness": "the thickness",
    "width": "the width",
    "nothing": "nothing: the stock has its thickness",
}


class Design(Versioned):
    """A bow for an archer. Lengths in m, weights in N, masses in kg.

    What it comes to is computed from these figures and kept only in the cache of core results.
    Where ``bow_file`` is given, the bow is as that file marks it, brought in or changed by hand,
    and nothing is solved for.
    """

    name = models.CharField(max_length=80)
    archer = models.ForeignKey(Archer, on_delete=models.PROTECT, related_name="designs")
    stave = models.ForeignKey(
        Stave, on_delete=models.SET_NULL, null=True, blank=True, related_name="designs"
    )
    material = models.CharField(max_length=40)
    moisture = models.FloatField(default=0.09)

    weight = models.FloatField()
    draw = models.FloatField()
    fingers = models.CharField(max_length=24)
    gap = models.FloatField(
        null=True, blank=True, help_text="upper less lower at brace; none: as the hold asks"
    )
    brace_height = models.FloatField(default=BRACE_HEIGHT)
    family = models.CharField(max_length=20, default="elliptical")

    length = models.FloatField()
    handle = models.FloatField(default=4 * INCH)
    fade = models.FloatField(default=2 * INCH)
    width = models.FloatField(default=1.75 * INCH)
    tip_width = models.FloatField(default=0.5 * INCH)
    parallel = models.FloatField(default=0.5)
    root_width = models.FloatField(default=1.0)
    grip_drop = models.FloatField(default=0.0)
    handle_depth = models.FloatField(default=1.75 * INCH)
    least_tip = models.FloatField(default=0.3125 * INCH)
    reflex = models.FloatField(default=0.0)
    solve_for = models.CharField(
        max_length=10, choices=list(SOLVE_FOR.items()), default="thickness"
    )
    depth_root = models.FloatField(default=0.55 * INCH)
    depth_nock = models.FloatField(default=0.4 * INCH)
    back = models.CharField(max_length=40, blank=True)
    back_root = models.FloatField(default=0.0)
    back_nock = models.FloatField(default=0.0)
    belly = models.CharField(max_length=40, blank=True)
    belly_root = models.FloatField(default=0.0)
    belly_nock = models.FloatField(default=0.0)
    centre_line = models.CharField(
        max_length=10, choices=list(CENTRE_LINES.items()), default="follow"
    )
    back_is = models.CharField(max_length=10, choices=list(BACKS.items()), default="bark")
    fade_shape = models.CharField(max_length=10, choices=list(FADES.items()), default="smooth")
    nock_style = models.CharField(max_length=10, choices=list(NOCKS.items()), default="side")
    kind = models.CharField(max_length=40, blank=True, help_text="a layout that it began with")
    outline = models.JSONField(
        null=True, blank=True, help_text="width points by limb, as shares of it; none: by its sizes"
    )
    places_from = models.CharField(
        max_length=10, choices=list(PLACES_FROM.items()), default="centre"
    )
    grip_width = models.FloatField(null=True, blank=True)
    beyond_upper = models.FloatField(default=INCH, help_text="wood beyond the nock")
    beyond_lower = models.FloatField(default=INCH)
    line = models.JSONField(
        default=dict, blank=True, help_text="natural line by limb: shares, and offsets to the belly"
    )
    tip_bent = models.FloatField(null=True, blank=True, help_text="length of a bent tip")
    tip_angle = models.FloatField(default=0.0, help_text="to the back")
    tip_static = models.BooleanField(default=False)
    lams = models.JSONField(
        default=list, blank=True, help_text="further layers, from the outermost to the core"
    )
    fibre = models.CharField(max_length=40, default=USUAL_FIBRE)
    arrow = models.FloatField(null=True, blank=True)
    section = models.CharField(max_length=40, default="rectangle")
    section_radius = models.FloatField(null=True, blank=True, help_text="of the log or the culm")
    tube_wall = models.FloatField(null=True, blank=True)
    back_bow_length = models.FloatField(
        null=True, blank=True, help_text="of a back-bow; none without it"
    )
    back_bow_count = models.PositiveSmallIntegerField(default=1)
    back_bow_width = models.FloatField(default=1.25 * INCH)
    back_bow_tip = models.FloatField(default=0.75 * INCH)
    back_bow_root = models.FloatField(default=0.3 * INCH)
    back_bow_nock = models.FloatField(default=0.2 * INCH)
    back_bow_tied = models.FloatField(
        default=0.0, help_text="how far in from the nocks the cable is tied"
    )
    cable_tension = models.FloatField(
        default=60.0, help_text="of each cable before the bow is strung"
    )
    cable_slack = models.FloatField(default=0.0, help_text="by how much each cable hangs loose")
    marked_in = models.CharField(
        max_length=10,
        choices=[("imperial", "shop fractions (64ths)"), ("metric", "millimetres (half steps)")],
        default="imperial",
    )
    learned = models.JSONField(
        null=True, blank=True,
        help_text="of its wood's modulus, as the shop knew it when the design was made",
    )  # fmt: skip
    by_book = models.BooleanField(default=False, help_text="nothing that the shop learned counts")
    made = models.DateTimeField(default=timezone.now)
    notes = models.TextField(blank=True)
    bow_file = models.TextField(blank=True)

    class Meta:
        ordering = ["-made"]

    def __str__(self) -> str:
        return self.name

    @property
    def tree(self) -> str:
        """That its stave is from; nothing where none is chosen."""
        return self.stave.grew_on if self.stave else ""

    @property
    def measured_wood(self) -> bool:
        """Whether its stave's own modulus was measured, so that no other counts."""
        return self.stave is not None and self.stave.modulus is not None

    @property
    def stiffer(self) -> float:
        """By what factor its wood is reckoned stiffer than the book, as the shop has learned."""
        if self.by_book or self.measured_wood or not self.learned:
            return 1.0
        return math.exp(float(self.learned["modulus"]))

    @property
    def overall(self) -> float:
        """From end to end, with the wood beyond the nocks (m)."""
        return self.length + self.beyond_upper + self.beyond_lower

    @property
    def stock(self) -> str:
        """What kind of bow its lists and its walk are of: tube, bamboo, laminated, backed, green or
        self.
        """
        if self.section == "tube":
            return "tube"
        if self.belly or self.lams:
            return "laminated"
        if self.section.startswith("culm segment") or "bamboo" in self.material:
            return "bamboo"
        if self.back:
            return "backed"
        return "green" if self.moisture > GREEN else "self"

    @property
    def back_kind(self) -> str:
        """What the back is; stock that was sawn has none under bark."""
        sawn = self.stave is not None and self.stave.sawn
        return "sawn" if sawn and self.back_is == "bark" else self.back_is

    @property
    def back_words(self) -> str:
        """The same in words."""
        return BACKS[self.back_kind]

    @property
    def marked_world(self) -> World:
        """The world its marks are in."""
        return METRIC if self.marked_in == METRIC else IMPERIAL

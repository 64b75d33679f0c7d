"""Designs: what a bow is to be, before and while it is built."""

import math
from collections.abc import Collection
from typing import Any, ClassVar

from django.core.exceptions import ValidationError
from django.db import models
from django.utils import timezone

from bowyery.bow import bowfile
from bowyery.design.figures import BACKS, CENTRE_LINES, MARKED_IN, Figures, looked_at, taken_from
from bowyery.errors import DescriptionError
from bowyery.units.quantity import IMPERIAL, METRIC, World
from bowyery.wood.materials import SEASONED
from fellwind.kit.versions import Versioned
from fellwind.rack.models import Stave
from fellwind.shop import book
from fellwind.shop.models import FINGERS, Archer

PIPES_OF = ("glass", "plastic")  # kinds of stuff that tubes and rods are of
GREEN = SEASONED  # moisture from which wood is worked green


class Design(Versioned):
    """A bow for an archer. Lengths in m, weights in N.

    All other figures are those of :class:`Figures`, kept as one column. What the bow comes to is
    computed from them and kept only in the cache of core results. Where ``bow_file`` is given, the
    bow is as that file marks it, brought in or changed by hand, and nothing is solved for.
    """

    CHOSEN: ClassVar = {"fingers": FINGERS}
    name = models.CharField(max_length=80)
    archer = models.ForeignKey(Archer, on_delete=models.PROTECT, related_name="designs")
    stave = models.ForeignKey(
        Stave, on_delete=models.SET_NULL, null=True, blank=True, related_name="designs"
    )
    material = models.CharField(max_length=40)
    weight = models.FloatField()
    draw = models.FloatField()
    fingers = models.CharField(max_length=24)
    length = models.FloatField()
    sizes = models.JSONField(
        default=dict, help_text="its figures by name; one that is missing is as usual"
    )
    learned = models.JSONField(
        null=True, blank=True,
        help_text="of its wood's modulus, as the shop knew it when the design was made",
    )  # fmt: skip
    by_book = models.BooleanField(default=False, help_text="nothing that the shop learned counts")
    made = models.DateTimeField(default=timezone.now)
    notes = models.TextField(blank=True)
    bow_file = models.TextField(blank=True)
    now = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="formers",
        help_text="what it was changed to while a bow was built from it; that bow keeps this one",
    )  # fmt: skip

    class Meta:
        ordering = ["-made"]

    def __str__(self) -> str:
        return self.name

    @staticmethod
    def of_former(fields: dict[str, Any]) -> dict[str, Any]:
        """A row's fields from an archive in which each figure had its own."""
        sizes = taken_from(fields)
        others = {name: value for name, value in fields.items() if name not in sizes}
        return others | ({"sizes": sizes} if sizes else {})

    @property
    def figures(self) -> Figures:
        """Its figures, each as given or as usual."""
        return Figures(**self.sizes)

    def clean_fields(self, exclude: Collection[str] | None = None) -> None:
        """Look at its figures, too."""
        super().clean_fields(exclude)
        if self.learned is not None and not isinstance(self.learned.get("modulus"), float | int):
            raise ValidationError({"learned": "It says nothing of a modulus."})
        try:
            looked_at(self.sizes)
            if self.bow_file:
                bowfile.loads(self.bow_file)
        except DescriptionError as error:
            raise ValidationError({"sizes": str(error)}) from None

    def change(self, **figures: Any) -> None:
        """Give it other figures, by name; it is not saved yet."""
        self.sizes = self.sizes | figures
        self.figures  # noqa: B018  # raises TypeError for a name that is no figure

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
        return self.length + self.figures.beyond_upper + self.figures.beyond_lower

    @property
    def stock(self) -> str:
        """What kind of bow its lists and its walk are of: tube (whole or split lengthwise),
        bamboo, laminated, backed, green or self.
        """
        figures = self.figures
        slat = figures.section.startswith("culm segment")
        stuff = book.shelf().backings.get(self.material) if slat else None
        if figures.section == "tube" or (stuff and stuff.kind in PIPES_OF):
            return "tube"
        if figures.belly or figures.lams:
            return "laminated"
        if slat or "bamboo" in self.material:
            return "bamboo"
        if figures.back:
            return "backed"
        return "green" if figures.moisture > GREEN else "self"

    @property
    def back_kind(self) -> str:
        """What the back is; stock that was sawn has none under bark."""
        sawn = self.stave is not None and self.stave.sawn
        return "sawn" if sawn and self.figures.back_is == "bark" else self.figures.back_is

    @property
    def back_words(self) -> str:
        """The same in words."""
        return BACKS[self.back_kind]

    @property
    def centre_words(self) -> str:
        """How its centre line runs."""
        return CENTRE_LINES[self.figures.centre_line]

    @property
    def marked_words(self) -> str:
        """What its marks are in."""
        return MARKED_IN[self.figures.marked_in]

    @property
    def marked_world(self) -> World:
        """The world its marks are in."""
        return METRIC if self.figures.marked_in == METRIC else IMPERIAL

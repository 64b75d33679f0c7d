"""The demo workshop's shop, gear and archers, and the room's screens."""

from bowyery.units.quantity import INCH, POUND_FORCE, fraction_text
from fellwind.shop.models import USUAL_FINGERS, Archer, Gear, Tool, Workshop
from scripts.demo.moment import DemoShop

_GEAR = (
    ("hemp rope, 10 mm", "rope", 260),
    ("floor pulley", "pulley", 220),
    ("spring scale", "scale", 110),
    ("oak post and cradle", "tree", 300),
)
# Name, draw (in), weight (lb), fingers, notes.
_ARCHERS = (
    (
        "Hanne Tangen",
        27,
        42,
        USUAL_FINGERS,
        "Field rounds by the shore; carries the bow in a cloth sleeve.",
    ),
    ("Eilif Brandal", 28, 51, USUAL_FINGERS, "Longbow shoots at standing marks."),
    ("Siri Voll", 26, 35, "three under", "First bow of her own."),
    ("Jorun Eide", 26.5, 38, USUAL_FINGERS, "Likes a light arrow and a quiet bow."),
    ("Per Lunde", 28, 46, "three under", "Travels with it; wants it in two."),
    ("Tordis Moen", 28, 55, USUAL_FINGERS, "Wanted a heavy flatbow."),
    (
        "Liv Tangen",
        18,
        15,
        USUAL_FINGERS,
        "Eight years old and growing; a light bow that may follow the string.",
    ),
)


def load(demo: DemoShop) -> None:
    """The loft with its air and gear, and whom it builds for."""
    workshop = Workshop.get()
    workshop.name, workshop.air_celsius, workshop.air_humidity = "the loft", 17.0, 0.58
    workshop.save()
    for name, kind, pounds in _GEAR:
        Gear.objects.create(
            name=name, kind=kind, rating=pounds * POUND_FORCE, rating_text=f"{pounds} lb"
        )
    Tool.objects.create(name="toothed block", like="rasp")
    for name, draw, weight, fingers, notes in _ARCHERS:
        Archer.objects.create(
            name=name,
            draw=draw * INCH,
            draw_text=f"{fraction_text(draw, 8)} in",
            weight=weight * POUND_FORCE,
            weight_text=f"{weight} lb",
            fingers=fingers,
            notes=notes,
        )

"""The sample bow: in mid-tiller, made up, of its own archer, stave and design."""

from django.db.models import Max

from bowyery.units.quantity import INCH, POUND_FORCE
from fellwind.builds.models import Build
from fellwind.builds.services import start
from fellwind.designs.models import Design
from fellwind.rack.models import Stave
from fellwind.shop.models import USUAL_FINGERS, Archer
from scripts.demo.builds import DemoLog
from scripts.demo.moment import DemoShop
from scripts.demo.people import maker
from scripts.demo.tiller import elm


def make(moment: DemoShop) -> Build:
    """Write it into the demo's shop."""
    by = maker()
    archer = Archer.objects.create(
        name="Sample archer",
        draw=27 * INCH,
        draw_text="27 in",
        weight=42 * POUND_FORCE,
        weight_text="42 lb",
        fingers=USUAL_FINGERS,
        notes="Made up, to look at; goes with the sample bow.",
    )
    top = Stave.objects.aggregate(top=Max("number"))["top"] or 0
    stave = Stave.objects.create(
        number=top + 1,
        material="wych elm",
        length=72 * INCH,
        length_text="72 in",
        width=2.5 * INCH,
        width_text="2 1/2 in",
        depth=2 * INCH,
        depth_text="2 in",
        source="made up, with the sample bow",
    )
    design = Design.objects.create(
        name="Sample flatbow",
        archer=archer,
        stave=stave,
        material=stave.material,
        weight=archer.weight,
        draw=archer.draw,
        fingers=archer.fingers,
        length=67 * INCH,
    )
    data = {
        "name": design.name, "design": design, "stave": stave, "school": "W", "beginner": False,
        "draw_ruler": archer.draw_ruler,
    }  # fmt: skip
    build = start(data, by)
    Build.objects.filter(pk=build.pk).update(stage="tiller")
    build.refresh_from_db()
    elm(DemoLog(moment), build)
    return build

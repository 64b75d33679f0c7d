"""The demo workshop's two matched strings, and the room's screens."""

from django.urls import reverse

from bowyery.strings.plan import plan_string
from bowyery.units.quantity import GRAIN, INCH, fraction_text
from bowyery.wood.materials import fibre
from fellwind.builds.demo import DemoLog
from fellwind.builds.models import Build, Entry
from fellwind.designs.services import solution
from fellwind.kit.demo import DemoShop
from fellwind.strings.models import BowString


def load(demo: DemoShop) -> None:
    """The rowan's working string and its spare, measured as the plan has them."""
    desk, build = DemoLog(demo), Build.objects.get(number=13)
    found = solution(build.design)
    wanted = found.wanted
    plan = plan_string(
        found.bow, wanted.weight, wanted.draw, fibre("linen"), "two-bundle laid twist"
    )
    for role, longer, heavier, day in (("working", 0.0, 1.0, 29), ("spare", 0.0015, 1.02, 28)):
        length = round((plan.length + longer) / INCH * 16) / 16
        grains = round(plan.mass * heavier / GRAIN)
        BowString.objects.create(
            build=build, role=role, kind=plan.kind, fibre="linen",
            brace_height=build.design.brace_height, measured_length=length * INCH,
            measured_length_text=f"{fraction_text(length, 16)} in", measured_mass=grains * GRAIN,
            measured_mass_text=f"{grains} gr", made=demo.ago(day),
        )  # fmt: skip
        Entry.objects.create(
            build=build, kind="string", stage="string", at=demo.ago(day, 17), by=desk.maker,
            minutes=75, text=f"{role} string: linen, {plan.kind}, {plan.strands} strands",
        )  # fmt: skip


def pages() -> list[str]:
    """Screens of this room."""
    string = BowString.objects.select_related("build").first()
    if string is None:
        return []
    number = string.build.number
    return [
        reverse("strings:sheet", args=[number]),
        reverse("strings:edit", args=[number, string.pk]),
    ]

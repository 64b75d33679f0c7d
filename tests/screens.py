"""Addresses of every screen of the demo workshop, for tests that visit them all."""

from django.urls import reverse

from bowyery.making.stages import NAMES as STAGES
from fellwind.builds.models import Build
from fellwind.designs.models import Design
from fellwind.practice.models import Session
from fellwind.rack.models import Stave
from fellwind.shop.models import Archer, Gear, OwnMaterial, Tool
from fellwind.sight.models import Sighting
from fellwind.strings.models import BowString, Thread


def builds() -> list[str]:
    """Of this room."""
    whole = [reverse(f"builds:{name}") for name in ("list", "start", "season")]
    build = Build.objects.filter(stage="tiller", finished=None).first() or Build.objects.first()
    if build is None:
        return whole
    stages = [s for s in STAGES if s not in ("tiller", "string")]
    whole += [reverse("builds:stage", args=[build.number, stage]) for stage in stages]
    whole.append(reverse("builds:log", args=[build.number]))
    whole.append(f"{reverse('builds:spoiled', args=[build.number])}?limb=upper&place=26")
    broken = Build.objects.filter(ending="broken").first()
    if broken is not None:
        whole += [reverse(f"builds:{name}", args=[broken.number]) for name in ("inquest", "end")]
    proved = Build.objects.filter(stage="proof").first()
    whole += [reverse("builds:stage", args=[proved.number, "proof"])] if proved else []
    last = build.entries.filter(kind="bench", corrected_by=None).last()
    return whole + ([reverse("builds:correct", args=[build.number, last.pk])] if last else [])


def designs() -> list[str]:
    """Screens of this room, and of bows laid into staves."""
    first = Design.objects.order_by("pk").first()
    whole = [
        reverse(f"designs:{name}")
        for name in ("list", "new", "layouts", "compare", "import", "measured")
    ]
    if first is None:
        return whole
    own = ("detail", "edit", "marks", "walk", "sweep")
    whole += [reverse(f"designs:{name}", args=[first.pk]) for name in own]
    whole.append(f"{reverse('designs:compare')}?d={first.pk}")
    if first.stave is not None:
        whole.append(f"{reverse('fit:stave', args=[first.stave.number])}?design={first.pk}")
    return whole


def instruments() -> list[str]:
    """Of this room."""
    return [reverse("instruments:list")]


def people() -> list[str]:
    """Of this room."""
    return [reverse("people:password")]


def practice() -> list[str]:
    """Of this room."""
    session = Session.objects.filter(lesson="").first()
    found = [reverse("practice:home"), reverse("practice:record")]
    if session is not None:
        found += [
            reverse("practice:tree", args=[session.pk]),
            reverse("practice:debrief", args=[session.pk]),
        ]
    return found


def rack() -> list[str]:
    """Of this room."""
    numbers = Stave.objects.values_list("number", flat=True)[:2]
    own = [reverse(f"rack:{name}", args=[n]) for n in numbers for name in ("detail", "edit")]
    return [reverse("rack:list"), reverse("rack:new"), *own]


def shop() -> list[str]:
    """Of this room."""
    archer, gear = Archer.objects.first(), Gear.objects.first()
    own = [reverse("shop:archer", args=[archer.pk])] if archer else []
    own += [reverse("shop:gear", args=[gear.pk])] if gear else []
    own += [reverse("shop:material", args=[one.pk]) for one in OwnMaterial.objects.all()[:1]]
    own += [reverse("shop:tool", args=[one.pk]) for one in Tool.objects.all()[:1]]
    names = (
        "shop:rests",
        "shop:rest_new",
        "shop:tool_new",
        "shop:shop",
        "shop:materials",
        "shop:material_new",
        "shop:archer_new",
        "shop:gear_new",
    )
    return [reverse(name) for name in names] + own


def sight() -> list[str]:
    """Of this room."""
    build = Build.objects.filter(stage="tiller", finished=None).first()
    if build is None:
        return []
    found = [f"/builds/{build.number}/photographed/"]
    row = Sighting.objects.filter(photo__entry__build=build).first()
    return [*found, f"{found[0]}{row.pk}/"] if row else found


def strings() -> list[str]:
    """Of this room."""
    strings = list(BowString.objects.select_related("build"))
    if not strings:
        return []
    found = [
        reverse("strings:list"), reverse("strings:thread_new"),
        reverse("strings:sheet", args=[strings[0].build.number]),
        reverse("strings:edit", args=[strings[0].build.number, strings[0].pk]),
        reverse("strings:make", args=[strings[0].pk]),
        f"{reverse('strings:detail', args=[strings[0].pk])}?part=centre",
    ]  # fmt: skip
    found += [reverse("strings:detail", args=[one.pk]) for one in strings]
    found += [reverse("strings:thread", args=[one.pk]) for one in Thread.objects.all()]
    return found


def tiller() -> list[str]:
    """Of this room."""
    build = Build.objects.filter(stage="tiller", finished=None).first()
    if build is None:
        return []
    names = ("screen", "bench", "compare")
    return [reverse(f"tiller:{name}", args=[build.number]) for name in names]


ROOMS = (builds, designs, instruments, people, practice, rack, shop, sight, strings, tiller)


def screens() -> list[str]:
    """Of all rooms."""
    return [page for room in ROOMS for page in room()]

"""A full shop, for the tests that count queries and the benchmark that times pages."""

from datetime import timedelta
from uuid import uuid4

from django.utils import timezone

from fellwind.builds.models import Build, Entry, Measure, Wait
from fellwind.designs.models import Design
from fellwind.people.models import Person
from fellwind.rack.models import Stave, Weighing


def fill(design: Design, maker: Person, bows: int, readings: int, first: int = 101) -> None:
    """More bows, each from a design of another length, with readings spread over them."""
    values = {f.attname: getattr(design, f.attname) for f in Design._meta.concrete_fields}
    del values["id"]
    designs = Design.objects.bulk_create(
        Design(**values | {"name": f"Flatbow {n}", "length": design.length + 0.0004 * n})
        for n in range(bows)
    )
    builds = Build.objects.bulk_create(
        Build(
            number=n + first,
            name=f"Bow {n}",
            design=designs[n],
            stage="tiller" if n % 3 == 0 else "wood",
        )
        for n in range(bows)
    )
    entries = Entry.objects.bulk_create(
        Entry(
            build=builds[i % bows],
            stage="tiller",
            text="36 at 21",
            client_id=uuid4(),
            by=maker,
            minutes=5,
        )
        for i in range(readings)
    )
    Measure.objects.bulk_create(
        Measure(entry=e, kind="weight", value=160 - (i % 7), draw=0.5334, text="36 at 21")
        for i, e in enumerate(entries)
    )
    Wait.objects.bulk_create(
        Wait(build=b, what="dries", until=timezone.now() + timedelta(days=2)) for b in builds[::4]
    )
    staves = Stave.objects.bulk_create(
        Stave(number=n + first, material="plum", length=1.7, width=0.05, depth=0.04)
        for n in range(bows // 2)
    )
    today = timezone.localdate()
    Weighing.objects.bulk_create(
        Weighing(
            stave=s,
            day=today - timedelta(days=9 * k),
            mass=1.0 + 0.02 * k,
            text="",
            client_id=uuid4(),
        )
        for s in staves
        for k in range(3)
    )

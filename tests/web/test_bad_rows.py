"""A page outlives rows that cannot be so: it names them, shows the rest, offers to remove them."""

import html
from collections.abc import Callable
from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.units.quantity import INCH
from fellwind.builds.models import Build, Entry
from fellwind.designs import services
from fellwind.designs.models import Design
from fellwind.rack.models import Stave
from tests.conftest import signed_in

PAGES = ("today:today", "builds:list", "designs:list", "rack:list", "ledger:search", "shop:shop")


BAD: dict[str, Callable[[Design, Build, Stave], object]] = {
    "stage": lambda _, b, __: Build.objects.filter(pk=b.pk).update(stage="zzz"),
    "length": lambda d, *_: Design.objects.filter(pk=d.pk).update(length=1e308),
    "weight": lambda d, *_: Design.objects.filter(pk=d.pk).update(weight=-5.0),
    "sizes": lambda d, *_: Design.objects.filter(pk=d.pk).update(sizes=[1, "x"]),
    "year": lambda _, __, s: Stave.objects.filter(pk=s.pk).update(acquired="9999-12-31"),
    "kind": lambda _, __, s: Stave.objects.filter(pk=s.pk).update(length=float("inf")),
    "entry": lambda _, b, __: Entry.objects.filter(build=b).update(kind="zzz", text=""),
}


@pytest.fixture
def second(shop: SimpleNamespace) -> tuple[Design, Build, Stave]:
    """A bow beside the shop's own, with a stave and a log."""
    stave = Stave.objects.create(
        number=9, material="white ash", length=70 * INCH, width=0.06, depth=0.05
    )
    design = services.variant(shop.design)
    Design.objects.filter(pk=design.pk).update(name="From next door", stave=stave)
    build = Build.objects.create(
        number=9, name="From next door", design=design, stave=stave, stage="tiller"
    )
    Entry.objects.create(
        build=build, kind="bench", text="36 at 21", stage="tiller", by=shop.people.maker
    )
    return design, build, stave


@pytest.mark.parametrize("bad", BAD)
def test_a_page_outlives_any_one_bad_row(
    client: Client, shop: SimpleNamespace, second: tuple[Design, Build, Stave], bad: str
) -> None:
    BAD[bad](*second)
    client.raise_request_exception = False
    for page in PAGES:
        answer = client.get(reverse(page))
        text = html.unescape(answer.content.decode())
        assert answer.status_code == 200, (page, bad)
        if page == "builds:list":
            assert "Elm flatbow" in text  # the rest is shown
        if answer.wsgi_request.__dict__.get("bad_rows"):
            assert "cannot be shown and was left out of this page" in text
            assert "Remove it, with all that hangs on it" in text
    rows = Build.objects.count(), Design.objects.values("pk").count(), Stave.objects.count()
    assert rows == (2, 2, 2)  # showing a page removes nothing


def test_a_bad_row_is_removed_by_who_may_and_nothing_else_is(
    client: Client, shop: SimpleNamespace, second: tuple[Design, Build, Stave]
) -> None:
    design, _, _ = second
    BAD["sizes"](*second)
    client.raise_request_exception = False
    page = html.unescape(client.get(reverse("designs:list")).content.decode())
    assert "Design “" in page and "cannot be shown" in page
    guest = signed_in(shop.people.guest)
    guest.raise_request_exception = False
    seen = guest.get(reverse("designs:list")).content.decode()
    assert "cannot be shown" in seen and "Remove it" not in seen
    where, row = reverse("shop:remove_row"), {"label": "designs.design", "key": str(design.pk)}
    assert guest.post(where, row).status_code == 403
    other = client.post(where, row | {"key": str(shop.design.pk)}, follow=True)
    assert "not among what cannot be shown" in other.content.decode()
    client.post(where, row)
    assert list(Design.objects.all()) == [shop.design] and list(Build.objects.all()) == [shop.build]
    assert Stave.objects.count() == 2  # what the bow hung on stays
    assert "cannot be shown" not in client.get(reverse("designs:list")).content.decode()

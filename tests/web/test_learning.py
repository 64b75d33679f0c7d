"""What the shop has learned: its page, designs that start from it, and all of it left out."""

import math
from datetime import timedelta
from types import SimpleNamespace
from typing import Any

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from bowyery.mechanics.shot import LOSS_SPREAD, WOOD_LOSS
from bowyery.mechanics.strain import SetShare
from bowyery.record.learned import Evidence
from bowyery.tiller.forecast import Losses
from bowyery.units.quantity import Units
from fellwind.builds.models import Build, Entry, HeatJob, Measure
from fellwind.designs.models import Design
from fellwind.designs.services import knows_now, solution, wood_of
from fellwind.kit.cache import reading
from fellwind.ledger.learned import learned_page
from fellwind.rack.models import Stave, StripTest
from fellwind.shop import learning
from fellwind.shop.book import fibre
from fellwind.shop.models import Archer
from fellwind.strings.belief import belief
from fellwind.strings.models import BowString, StringEntry
from fellwind.tiller import answers, hands
from fellwind.tiller import services as tiller
from fellwind.tiller.learning import weight_as_tillered
from scripts.demo import season
from scripts.demo.moment import DemoShop
from tests.web.forms import design_form, made_from

LEARNED = reverse("ledger:learned")


@pytest.fixture
def worked(shop: SimpleNamespace, monkeypatch: pytest.MonkeyPatch) -> SimpleNamespace:
    """A shop with six bows behind it, four of them of ash."""
    for row in season.SEASON:
        Archer.objects.get_or_create(
            name=row.archer,
            defaults={"draw": 0.686, "draw_text": "27 in", "weight": 187.0, "weight_text": "42 lb"},
        )
    Stave.objects.filter(number__lte=len(season.SEASON)).update(number=100 + shop.stave.number)
    Build.objects.filter(number__lte=len(season.SEASON)).update(number=100 + shop.build.number)
    picked = [season.SEASON[k] for k in (0, 1, 2, 3, 6, 10)]
    monkeypatch.setattr(season, "SEASON", picked)
    season.load(DemoShop(timezone.now().replace(second=0, microsecond=0)))
    shop.design.refresh_from_db()
    return shop


def ash(shop: SimpleNamespace, client: Client, **change: object) -> Design:
    """A new design of ash, made through its form."""
    filled = design_form(shop.design, name="The next ash", material="european ash", stave="",
                         **change)  # fmt: skip
    filled.pop("made_from", None)
    answer = client.post(reverse("designs:new"), filled)
    assert answer.status_code == 302, answer.content.decode()[:2000]
    return Design.objects.latest("pk")


def page_of(client: Client, design: Design) -> str:
    return client.get(reverse("designs:detail", args=[design.pk])).content.decode()


def reckon(client: Client, design: Design, by: str) -> str:
    design.refresh_from_db()
    where = reverse("designs:reckon", args=[design.pk])
    answer = client.post(where, {"by": by} | made_from(design), follow=True)
    design.refresh_from_db()
    return str(answer.content.decode())


def test_an_empty_shop_is_told_what_would_teach_it(client: Client) -> None:
    page = client.get(LEARNED).content.decode()
    assert page.count("Nothing yet. It wants:") == len(learned_page(Units()).parts) == 10
    assert "Calipers at three marks of each limb" in page


def test_what_was_learned_stands_with_its_evidence(client: Client, worked: SimpleNamespace) -> None:
    page = client.get(LEARNED).content.decode()
    assert "Your european ash is" in page and "% under the book, from 5 records" in page
    assert "no. 1" in page and "Records, in figures" in page
    for words in ("Of the bend beyond its limit, european ash keeps", "The scraper takes 1.",
                  "Edges, sanding and coats take", "Shooting in takes", "Limbs of wych elm keep",
                  "Of wych elm bent by dry heat stays"):  # fmt: skip
        assert words in page, words


def test_a_new_design_starts_from_it_and_can_do_without(
    client: Client, worked: SimpleNamespace
) -> None:
    design = ash(worked, client)
    assert design.learned is not None and design.learned["bows"] == 5
    assert -0.12 < design.learned["modulus"] < -0.03
    softer, thick = wood_of(design), float(solution(design).bow.upper.thickness.sum())
    page = page_of(client, design)
    assert "Reckoned with your european ash" in page
    assert "By the book alone the same marks would pull" in page
    assert "is reckoned by the book alone" in reckon(client, design, "book")
    book = wood_of(design)
    assert softer.modulus == pytest.approx(book.modulus * math.exp(design.learned["modulus"]))
    assert softer.elastic_strain == pytest.approx(book.elastic_strain)
    assert softer.rupture_strain == pytest.approx(book.rupture_strain)
    assert solution(design).bow.upper.thickness.sum() < thick
    assert "Reckoned by the book alone" in page_of(client, design)
    assert "with what the shop has learned" in reckon(client, design, "shop")
    assert wood_of(design).modulus == pytest.approx(softer.modulus)


def test_a_design_that_stands_keeps_what_it_was_made_with(
    client: Client, worked: SimpleNamespace
) -> None:
    design = ash(worked, client)
    before = design.learned
    Measure.objects.filter(entry__build__number=1, kind="thickness").delete()
    newer = knows_now(design)
    assert newer is not None and newer != before
    design.refresh_from_db()
    assert design.learned == before and "Since then:" in page_of(client, design)
    # changing another figure of it leaves its wood alone; another wood is another matter
    kept = client.post(reverse("designs:edit", args=[design.pk]),
                       design_form(design, notes="for the slip"))  # fmt: skip
    assert kept.status_code == 302
    design.refresh_from_db()
    assert design.learned == before
    reckon(client, design, "shop")
    assert design.learned == newer
    client.post(reverse("designs:edit", args=[design.pk]), design_form(design, material="rowan"))
    design.refresh_from_db()
    assert design.learned is None and "Reckoned with" not in page_of(client, design)


def test_by_the_book_nothing_counts_anywhere(client: Client, worked: SimpleNamespace) -> None:
    design = ash(worked, client)
    build = Build.objects.create(number=60, name="next", design=design)
    known = hands.learned_shop(build, hands.ShopTiller.get())
    assert known.losses != Losses() and any(tool.hunger for tool in known.tools)
    assert learning.set_share(design).bows > 0
    assert learning.keeps(design) != (WOOD_LOSS, LOSS_SPREAD)
    reckon(client, design, "book")
    client.post(reverse("builds:take_over", args=[60]))
    build = Build.objects.get(number=60)
    plain = hands.learned_shop(build, hands.ShopTiller.get())
    assert plain.losses == Losses() and not any(tool.hunger for tool in plain.tools)
    assert learning.set_share(design) == SetShare()
    assert learning.keeps(design)[0] == WOOD_LOSS


def test_a_button_of_an_older_page_and_a_reader_change_nothing(
    client: Client, worked: SimpleNamespace
) -> None:
    design = ash(worked, client)
    where, sent = reverse("designs:reckon", args=[design.pk]), made_from(design)
    reckon(client, design, "book")
    client.post(where, {"by": "shop"} | sent)
    design.refresh_from_db()
    assert design.by_book
    # what is neither is what the shop knows
    assert "with what the shop has learned" in reckon(client, design, "a wizard")


def test_a_measured_stave_goes_by_itself_and_its_tree_by_it(
    client: Client, worked: SimpleNamespace
) -> None:
    stave = Stave.objects.get(number=1)
    stave.modulus = 9.0e9
    stave.save()
    design = Design.objects.get(stave=stave)
    design.learned = {"modulus": -0.2, "spread": 0.05, "bows": 3}
    assert design.stiffer == 1.0
    assert wood_of(design).modulus < 10e9
    assert "has a modulus of its own" in page_of(client, design)
    before = learning.here("modulus", "european ash", "the hill ash")
    other = learning.here("modulus", "wych elm")
    strip = Stave.objects.get(tree="the hill ash")
    StripTest.objects.create(
        stave=strip, span=0.5, load=20.0, sag=0.0027, width=0.02, depth=0.01, text="a strip",
        by=worked.people.maker,
    )  # fmt: skip
    after = learning.here("modulus", "european ash", "the hill ash")
    assert after.same == before.same + 1 and after.sure < before.sure
    assert abs(learning.here("modulus", "wych elm").middle - other.middle) < abs(
        after.middle - before.middle
    )


def test_a_bows_own_record_and_later_ones_do_not_foretell_it(worked: SimpleNamespace) -> None:
    seen = learning.evidence("set share")
    assert len(seen) == 6
    whole = learning.here("set share", "european ash", seen=seen)
    without = learning.here("set share", "european ash", seen=seen, without=1)
    assert without.same == whole.same - 1
    first = Entry.objects.filter(kind="proof", build__number=1).latest("at")
    assert not learning.here("set share", "european ash", before=first.at).says
    assert learning.here("set share", "european ash", before=timezone.now()).same == whole.same


def test_the_tiller_foretells_from_before_finishing(worked: SimpleNamespace) -> None:
    """A weight read at the finish is of the finished bow: nothing is taken off for it again."""
    build = Build.objects.get(number=1)
    left = weight_as_tillered(build)
    finished = Measure.objects.get(entry__build=build, entry__stage="finish", kind="weight")
    assert left is not None and finished.value is not None
    assert 0.02 < 1 - finished.value / left[0] < 0.1
    told = answers.weight_forecast(build, timezone.now())
    proved = (
        Entry.objects.filter(build=build, kind="proof").latest("at").measures.get(kind="weight")
    )
    assert told is not None and told[0] < (proved.value or 0.0) < told[2]
    now = tiller.bench(build).outlook
    assert now is not None and now.finished.middle == pytest.approx(now.now.middle)
    then = tiller.bench(build, upto=6).outlook
    assert then is not None and then.finished.middle < 0.97 * then.now.middle
    assert weight_as_tillered(worked.build) is None


def test_a_record_that_contradicts_all_others_is_named(
    client: Client, worked: SimpleNamespace
) -> None:
    third = Build.objects.get(number=3)
    wrong = Entry.objects.create(build=third, kind="proof", stage="proof", text="proof")
    Measure.objects.create(entry=wrong, kind="follow after a day", value=0.6, text="24 in")
    page = client.get(LEARNED).content.decode()
    assert "contradicts all others" in page and reverse("builds:log", args=[3]) in page


def test_bends_by_heat_and_strings_are_learned_too(worked: SimpleNamespace) -> None:
    bows: list[Any] = list(BowString.objects.all())
    assert bows == [] and HeatJob.objects.count() == 1
    linen = fibre("linen")
    book = belief(linen)
    string = BowString.objects.create(
        build=worked.build, fibre="linen", brace_height=worked.design.figures.brace_height
    )
    for pulls, height in ((0, 0.165), (15, 0.146), (60, 0.141), (150, 0.140)):
        StringEntry.objects.create(string=string, kind="brace", value=height, pulls=pulls, text="x")
    assert belief(linen).beds > 1.2 * book.beds
    assert belief(linen, without=string.pk) == book
    assert belief(fibre("polyester")) == belief(fibre("polyester"), without=string.pk)


def test_records_are_weighed_once_for_a_page(
    client: Client, worked: SimpleNamespace, django_assert_max_num_queries: Any
) -> None:
    design = ash(worked, client)
    page_of(client, design)
    with django_assert_max_num_queries(60):
        page_of(client, design)


def test_evidence_is_of_its_day(worked: SimpleNamespace) -> None:
    rows: list[Evidence] = learning.evidence("modulus")
    today = learning.days(timezone.now())
    assert all(today - 365 < row.day < today for row in rows)
    assert learning.days(timezone.now() + timedelta(days=1)) == pytest.approx(today + 1, abs=0.01)
    assert {row.tree for row in rows if row.wood == "european ash"} > {"the long ash"}


def test_a_season_tells_how_soon_the_weight_was_known(
    client: Client, worked: SimpleNamespace
) -> None:
    season_page = client.get(reverse("ledger:season")).content.decode()
    assert reverse("ledger:rungs") in season_page
    for _ in range(4):  # a busy machine may need more than one look
        part = client.get(reverse("ledger:rungs") + "?again=20")
    said = part.content.decode()
    for words in ("on a long string", "at low brace", "at full brace"):
        assert f"Foretold {words}" in said
    rows = {words: (miss, kept) for words, miss, kept in part.context["rows"]}
    years = {timezone.localdate(b.started).year for b in Build.objects.exclude(pk=worked.build.pk)}
    if len(years) == 1:
        assert rows["at full brace"][0].count == 6
    assert rows["at full brace"][0].deviation < 0.06
    assert abs(rows["at full brace"][0].mean) < abs(rows["on a long string"][0].mean) + 0.05
    other = client.get(reverse("ledger:rungs") + "?year=1999").content.decode()
    assert "Foretold" in other  # a year that never was is this one


def test_a_page_over_many_bows_reads_what_they_showed_once(
    worked: SimpleNamespace, django_assert_num_queries: Any
) -> None:
    shop = hands.ShopTiller.get()

    def read() -> tuple[Any, Any]:
        shares = learning.evidence("set share")
        return shares, [hands.bites_seen(shop, pk) for pk in (worked.build.pk, 0)]

    alone = read()
    with reading():
        assert read() == alone
        with django_assert_num_queries(0):
            assert read() == alone
    assert read() == alone  # outside it is read anew
    Measure.objects.filter(entry__kind="proof").delete()
    assert read()[0] == [] != alone[0]


def test_a_season_of_many_bows_is_reckoned_a_few_at_a_time(
    client: Client, worked: SimpleNamespace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("fellwind.ledger.services.PATIENCE", 0.0)
    part = client.get(reverse("ledger:rungs"))
    assert part.context["left"] > 0
    assert "still to be reckoned" in part.content.decode()
    assert "again=1" in part.content.decode()
    last = client.get(reverse("ledger:rungs") + "?again=20").content.decode()
    assert "open the page again" in last and "hx-get" not in last


def test_a_season_without_a_proof_has_no_rungs(client: Client) -> None:
    assert "both tillered" in client.get(reverse("ledger:rungs")).content.decode()


def test_strings_stand_beside_their_bows(client: Client, worked: SimpleNamespace) -> None:
    build = Build.objects.get(number=1)
    string = BowString.objects.create(build=build, fibre="linen", brace_height=0.15)
    StringEntry.objects.create(string=string, kind="brace", value=0.155, pulls=0, text="x")
    StringEntry.objects.create(string=string, kind="shots", value=40, text="40")
    BowString.objects.create(build=build, role="tillering", kind="tillering string",
                             fibre="polyester", brace_height=0.15)  # fmt: skip
    page = client.get(reverse("ledger:compare") + "?b=1&b=3")
    assert [row.letter for row in page.context["strings"]] == ["B"]  # the newest bow is A
    said = page.content.decode()
    assert "strands of linen" in said and ">40<" in said and "compare-sides" in said
    none = client.get(reverse("ledger:compare") + "?b=3").content.decode()
    assert "None of their strings" in none

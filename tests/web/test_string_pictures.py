"""The pictures of strings: in proportion, to be touched, in both worlds, for every kind."""

import re
from html import unescape

import pytest

from bowyery.strings.kinds import STRING_KINDS
from bowyery.strings.plan import StringOrder, plan_string
from bowyery.units.quantity import METRIC, POUND_FORCE, Units
from bowyery.wood.materials import fibre
from fellwind.drawing.bowstring import LEFT, Look, bars_picture, string_picture
from fellwind.drawing.stringwork import DRAWN, step_picture
from tests.core.bows import bow, tied

KINDS = [name for name in STRING_KINDS if name != "cable"]
LOOK = Look(("string-slate", "string-heather"), True, 30)
PARTS = ("body", "twist", "pieces", "length", "loops", "throats", "centre", "nock", "silencers")
URLS = {name: f"/part/{name}" for name in PARTS}


def planned(kind: str, **given: object):  # type: ignore[no-untyped-def]
    which = tied() if kind == "cable" else bow()
    order = StringOrder(STRING_KINDS[kind], fibre("linen"), **given)  # type: ignore[arg-type]
    return plan_string(which, 45 * POUND_FORCE, 0.66, order)


def drawn(kind: str, shown: Units, **given: object) -> str:
    return str(string_picture(planned(kind, **given), LOOK, URLS, shown))


def boxes(picture: str, css: str) -> list[tuple[float, float]]:
    """Left and right edge of every box of a class."""
    found = re.findall(
        rf'<rect class="(?:{css})" x="([\d.-]+)" y="[\d.-]+" width="([\d.-]+)"', picture
    )
    return [(float(x), float(x) + float(w)) for x, w in found]


@pytest.mark.parametrize("shown", [Units(), Units(METRIC)])
@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_is_drawn_in_three_states(kind: str, shown: Units) -> None:
    picture = drawn(kind, shown)
    for state in ("Laid out on the", "Twisted", "As it will be on the bow"):
        assert state in picture
    assert 'role="group"' in picture and "data-places" in picture
    assert ("in</text>" in picture) == shown.imperial
    numbers = [float(n) for n in re.findall(r'(?:x|cx|x1|x2)="(-?[\d.]+)"', picture)]
    assert all(-1 <= n <= 961 for n in numbers), "nothing is drawn beyond its picture"


def test_lengths_are_in_proportion() -> None:
    plan = planned("two-bundle laid twist")
    picture = drawn("two-bundle laid twist", Units())
    served = sorted(boxes(picture, "wrap"))
    scale = (960 - LEFT - 16) / max(plan.length, plan.posts)
    centre = plan.part("centre serving")
    wide = next(b - a for a, b in served if abs(a - LEFT - centre.start * scale) < 1)
    assert wide == pytest.approx((centre.end - centre.start) * scale, abs=0.5)
    point = re.search(r'class="nock-point" cx="([\d.]+)"', picture)
    assert point and float(point[1]) == pytest.approx(LEFT + plan.nocking * scale, abs=0.5)


def test_every_part_can_be_touched_and_named() -> None:
    picture = drawn("two-bundle laid twist", Units(), silencers=(0.002, 0.3))
    for name in PARTS:
        assert f'data-part="{name}"' in picture, name
        assert f'href="/part/{name}"' in picture
    labels = re.findall(r'data-part="\w+" aria-label="([^"]+)"', picture)
    assert len(labels) >= len(PARTS) and all(len(one) > 4 for one in labels)
    assert "silencers" not in re.findall(r'data-part="(\w+)"', drawn("continuous loop", Units()))


def test_the_strip_reads_every_place_of_the_string() -> None:
    picture = drawn("two-bundle laid twist", Units())
    strip = re.search(r'data-places="([^"]+)"', picture)
    assert strip
    places = unescape(strip[1])
    plan = planned("two-bundle laid twist")
    assert places.count("from the upper nock") == int(plan.length / 0.0254) + 1
    assert "centre serving" in places and "upper loop" in places and "bears" in places


def test_twist_leans_the_way_it_goes_and_more_turns_slant_more() -> None:
    plan = planned("two-bundle laid twist")

    def slants(look: Look) -> list[tuple[float, float]]:
        picture = str(string_picture(plan, look, {}, Units()))
        found = re.findall(r'class="slant[^"]*" x1="([\d.]+)" y1="[\d.]+" x2="([\d.]+)"', picture)
        return [(float(a), float(b)) for a, b in found]

    right = slants(LOOK)
    left = slants(Look(LOOK.colours, False, 30))
    assert right[0][1] > right[0][0] and left[0][1] < left[0][0]
    assert len(slants(Look(LOOK.colours, True, 60))) > len(right)


def test_bars_tell_whether_it_bears_what_is_asked() -> None:
    rows = [("a school", 800.0, 1200.0, ""), ("statics", 900.0, 900.0, "strong")]
    good = str(bars_picture(rows, 1100.0, 1000.0, Units()))
    bad = str(bars_picture(rows, 900.0, 1000.0, Units()))
    assert 'class="bears"' in good and 'class="bears-not"' in bad
    assert "Needed 225 lb, borne 247 lb" in good
    edges = boxes(good, "needs|needs-more")
    assert edges and all(right < 470 for _, right in edges)


@pytest.mark.parametrize("which", sorted(DRAWN))
def test_every_step_of_the_work_has_its_drawing(which: str) -> None:
    picture = str(step_picture(which, "first figure", "second figure", "what is done"))
    assert "first figure" in picture and 'aria-label="what is done"' in picture
    numbers = [float(n) for n in re.findall(r'(?:x|cx|x1|x2)="(-?[\d.]+)"', picture)]
    assert all(0 <= n <= 420 for n in numbers)


def test_a_cable_is_drawn_by_its_ties() -> None:
    picture = str(string_picture(planned("cable"), LOOK, URLS, Units()))
    assert "tied" in picture and 'data-part="centre"' not in picture

"""The bench of a laminated bow: lams, form, glue on a running clock, and the plan of its rests."""

from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone

from bowyery.units.quantity import INCH
from fellwind.builds.laminating import CLOCK
from fellwind.builds.models import Build, Wait
from fellwind.designs import services
from fellwind.designs.models import Design
from fellwind.exports.riser import riser_shape
from tests.web.forms import design_form

STAGE = reverse("builds:stage", args=[1, "back"])
GLUE = reverse("builds:glue", args=[1])


@pytest.fixture
def glass(client, shop):
    """A glass-faced bow with a tapered lam and a wedge."""
    shop.design.change(
        back="unidirectional glass", back_root=0.001, back_nock=0.001,
        belly="unidirectional glass", belly_root=0.001, belly_nock=0.001,
        handle=8 * INCH, fade=3 * INCH, handle_depth=2.25 * INCH, reflex=1.5 * INCH,
        least_tip=0.005,
        lams=[
            {"side": "belly", "material": "wych elm", "root": 0.0012, "nock": 0.0006, "ends": None},
            {"side": "belly", "material": "wych elm", "root": 0.001, "nock": 0.0, "ends": 0.12},
        ],
    )  # fmt: skip
    Design.objects.filter(pk=shop.design.pk).update(sizes=shop.design.sizes)
    return Design.objects.get(pk=shop.design.pk)


def test_the_bench_shows_each_lam_the_form_and_the_glue(client, glass):
    page = client.get(STAGE)
    bench, text = page.context["stack"], page.content.decode()
    assert [row.lam.role for row in bench.limbs[0].rows] == [
        "facing", "core", "veneer", "veneer", "facing"]  # fmt: skip
    assert bench.limbs[0].form.tip_over > 0 and "springs back" in text
    assert bench.glue.joints == 4 and "The dry run, step by step" in text
    assert any("wedge" in step for step in bench.steps)
    assert bench.lost[0] > 2.0, "a tenth of a millimetre of glass is pounds, not ounces"
    assert "solved for" in text and "parallel" in text


def test_alike_lams_are_one_row_of_the_bench(client, glass):
    lam = {"side": "belly", "material": "wych elm", "root": 0.0006, "nock": 0.0006, "ends": None}
    glass.change(lams=[lam, lam, lam])
    Design.objects.filter(pk=glass.pk).update(sizes=glass.sizes)
    page = client.get(STAGE)
    limb = page.context["stack"].limbs[0]
    assert len(limb.rows) == 6
    assert [numbers for numbers, _ in limb.together] == ["1", "2", "3 to 5", "6"]
    assert "<strong>3 to 5</strong>" in page.content.decode()


def test_a_plain_bow_has_no_stack_and_no_form(client, shop):
    page = client.get(STAGE)
    assert page.context["stack"] is None
    detail = client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    assert "Print form and caul" not in detail
    for name in ("form.pdf", "form.dxf", "lams.csv", "riser.pdf"):
        answer = client.get(reverse("designs:export", args=[shop.design.pk, name]))
        assert answer.status_code == 409 and answer.content


def test_the_grip_block_lies_under_the_lams_and_leaves_as_paper(client, glass):
    found = services.solution(glass)
    shape = riser_shape(found, "metric", "smooth")
    # it begins with nothing at both fades and is the grip less the lams in its middle
    assert shape.block[-1][1] == pytest.approx(0.0, abs=1e-6)
    deep = min(y for _, y in shape.block)
    lams = found.marks[0].thickness * 1000
    assert -deep == pytest.approx(1000 * found.layout.handle_depth - lams, abs=0.1)
    pdf = client.get(reverse("designs:export", args=[glass.pk, "riser.pdf"]))
    assert pdf["Content-Type"] == "application/pdf" and pdf.content.startswith(b"%PDF")


def test_the_form_leaves_as_paper_and_as_a_cutting_file_at_full_size(client, glass):
    found = services.solution(glass)
    pdf = client.get(reverse("designs:export", args=[glass.pk, "form.pdf"]))
    assert pdf["Content-Type"] == "application/pdf" and pdf.content.startswith(b"%PDF")
    drawn = client.get(reverse("designs:export", args=[glass.pk, "form.dxf"])).content.decode()
    import io

    from ezdxf.filemanagement import read

    space = read(io.StringIO(drawn)).modelspace()
    lines = {e.dxf.layer: list(e.get_points("xy")) for e in space.query("LWPOLYLINE")}
    assert set(lines) == {"FORM", "CAUL"}
    # form and caul are a stack apart in the middle of the bow
    form = max(y for x, y in lines["FORM"] if abs(x) < 1)
    caul = min(y for x, y in lines["CAUL"] if abs(x) < 1)
    thick = found.marks[0].thickness * 1000
    assert caul - form == pytest.approx(thick, abs=0.01)
    # and its tips lie further to the back than the limb's own by what springs back
    tip = max(lines["FORM"], key=lambda p: p[0])
    assert tip[1] - form > 1.5 * 25.4


def test_the_grinding_table_has_every_lam_at_every_station(client, glass):
    text = client.get(reverse("designs:export", args=[glass.pk, "lams.csv"])).content.decode()
    rows = [line.split(",") for line in text.splitlines()[1:]]
    assert {row[1] for row in rows} == {"1", "2", "3", "4", "5"}
    found = services.solution(glass)
    first = [row for row in rows if row[0] == "upper" and row[4] == "0.0"]
    total = sum(float(row[5]) for row in first)
    assert total == pytest.approx(found.marks[0].thickness * 1000, abs=0.01)


def test_another_glue_and_press_are_reckoned_with(client, glass):
    usual = client.get(STAGE).context["stack"]
    given = {"ratio": "0.5", "pressure": "60", "clamps": "20", "page_world": "imperial"}
    bench = client.get(STAGE, given).context["stack"]
    assert bench.glue.parts[1] == pytest.approx(0.5 * bench.glue.parts[0])
    assert bench.limbs[0].force == pytest.approx(
        usual.limbs[0].force * 60 * 6894.757 / 0.35e6, rel=1e-3
    )
    assert bench.each == pytest.approx(bench.limbs[0].force / 20)


@pytest.mark.parametrize(
    "given", [{"ratio": "0"}, {"pressure": "hard"}, {"clamps": "0"}, {"ratio": "nan"}]
)
def test_a_glue_or_press_that_cannot_be_is_said(client, glass, given):
    asked = {"ratio": "1", "pressure": "50", "clamps": "10", "page_world": "imperial"} | given
    page = client.get(STAGE, asked)
    assert page.status_code == 200 and page.context["stack"].press.errors
    assert 'class="error"' in page.content.decode()


def test_the_clock_counts_from_the_first_brush_and_goes_on(client, glass):
    client.post(GLUE, {"plan": "clock"})
    clock = Wait.objects.get(what=CLOCK)
    assert timedelta(minutes=15) < clock.until - clock.since < timedelta(hours=2)
    assert clock.short
    client.post(GLUE, {"plan": "clock"})
    assert Wait.objects.filter(what=CLOCK).count() == 1, "a second brush does not start it anew"
    page = client.get(STAGE).content.decode()
    assert f'data-until="{timezone.localtime(clock.until):%Y-%m-%dT%H:%M}' in page


def test_the_oven_plan_hangs_as_one_chain(client, glass):
    client.post(GLUE, {"plan": "oven"})
    waits = list(Build.objects.get(number=1).waits.order_by("until"))
    assert [w.what for w in waits] == [
        "Lams warm in the box", "Epoxy cures in the oven", "Limb cools after the oven"]  # fmt: skip
    assert waits[1].after == waits[0] and waits[2].after == waits[1]
    assert waits[1].since == waits[0].until
    answer = client.post(GLUE, {"plan": "nothing"}, follow=True).content.decode()
    assert "Choose how it is to cure" in answer


def test_a_slat_is_glued_in_one_wait(client, shop):
    form = design_form(shop.design, back="bamboo slat", back_root="1/8", back_nock="3/32",
                       reflex="3/4")  # fmt: skip
    client.post(reverse("designs:edit", args=[shop.design.pk]), form)
    client.post(reverse("builds:take_over", args=[1]))
    assert "It is in the form" in client.get(STAGE).content.decode()
    client.post(GLUE, {"plan": "slat"})
    assert Wait.objects.get().what == "Bamboo or slat cures in the form"

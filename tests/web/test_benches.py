"""The first benches of a build: wood, lay-out and the blank, measured back."""

import pytest
from django.urls import reverse

from bowyery.units.quantity import INCH, Units
from fellwind.builds.models import Build, Entry
from fellwind.designs import services
from fellwind.rack.models import Stave


def stage(client, name):
    return client.get(reverse("builds:stage", args=[1, name])).content.decode()


def post(client, what, **given):
    return client.post(reverse("builds:measured", args=[1, what]), given | {
        "page_world": given.pop("page_world", "imperial")})  # fmt: skip


@pytest.fixture
def stave(shop):
    build = Build.objects.get(number=1)
    if build.stave is None:
        build.stave = Stave.objects.first()
        build.save()
    return build.stave


def test_slices_shorten_the_sound_wood_until_one_is_clean(client, shop, stave):
    # Given a stave with a check at its left end
    stave.flaws.create(kind="end check", at=0.02, length=0.04, width=0.002, depth=0.01, face="back",
                       off=0.0)  # fmt: skip
    before = stage(client, "wood")
    # When two slices come off, the second clean
    url = reverse("builds:slice", args=[1])
    first = client.post(url, {"end": "left", "slice": "1/2", "page_world": "imperial"}, follow=True)
    assert "still shows a check. Cut another" in first.content.decode()
    second = {"end": "left", "slice": "3/4", "clean_now": "on", "page_world": "imperial"}
    answer = client.post(url, second, follow=True).content.decode()
    # Then both are off the stave, the check is gone with them, and the log has them
    stave.refresh_from_db()
    assert stave.cut_left == pytest.approx(1.25 * INCH)
    assert not [f for f in stave.flaws.all() if f.stands]
    assert "it is clean" in answer and before != stage(client, "wood")
    assert Entry.objects.filter(text__contains="sliced off the left end").count() == 2


@pytest.mark.parametrize(
    "given", [{"slice": "9 ft"}, {"slice": "thin"}, {"slice": ""}, {"end": "up"}]
)
def test_a_slice_that_cannot_be_is_said_beside_its_field(client, shop, stave, given):
    form = {"end": "left", "slice": "1/2", "page_world": "imperial"} | given
    answer = client.post(reverse("builds:slice", args=[1]), form)
    assert answer.status_code == 422 and 'class="error"' in answer.content.decode()
    stave.refresh_from_db()
    assert stave.cut_left == 0


def test_a_slice_that_leaves_nothing_is_refused_and_nothing_is_half_written(client, shop, stave):
    form = {"end": "left", "slice": f"{stave.length / INCH - 0.2:.1f}", "page_world": "imperial"}
    client.post(reverse("builds:slice", args=[1]), form)
    form["end"] = "right"
    answer = client.post(reverse("builds:slice", args=[1]), form)
    assert answer.status_code == 422
    stave.refresh_from_db()
    assert stave.cut_right == 0


def test_the_place_in_the_stave_is_taken_over_into_the_lay_out(client, shop, stave):
    assert "Take this place over" in stage(client, "wood")
    client.post(reverse("builds:lay", args=[1]))
    build = Build.objects.get(number=1)
    assert "The bow lies here" in stage(client, "wood")
    centre = build.laid["start"] + build.design.length / 2
    page = stage(client, "lay-out")
    assert "On the uncut stave" in page and Units().length(centre) in page


def test_the_centre_follows_from_the_length_after_each_cut(client, shop):
    # Given the design's own wood beyond its nocks
    design = Build.objects.get(number=1).design
    post(client, "length", length="63 1/4")
    page = stage(client, "lay-out")
    assert Units().length(63.25 * INCH / 2) in page, "63¼ now, so 31⅝"
    assert "shorter than planned" in page
    # unlike ends shift it, so that it stays half way between the nocks
    design.change(beyond_upper=3 * INCH)
    design.save()
    page = stage(client, "lay-out")
    assert Units().length((63.25 - 4) / 2 * INCH + 3 * INCH) in page


def test_calipers_at_the_marks_show_what_is_still_to_come_off(client, shop):
    # Given the marks of the bow
    found = services.solution(shop.design)
    page = client.get(reverse("builds:stage", args=[1, "rough"]))
    rows = page.context["rough"].rows
    assert "Nothing has been measured yet" in page.content.decode()
    k = next(k for k, r in enumerate(rows) if r.limb == "upper" and k > 1)
    too_thin = next(k for k, r in enumerate(rows) if r.limb == "lower") + 2
    # When one place is read full and one too thin
    sizes = {f"thick_{k}": f"{(rows[k].goal + 0.002) / INCH:.3f}",
             f"thick_{too_thin}": f"{(rows[too_thin].goal - 0.001) / INCH:.3f}",
             f"wide_{k}": "1 7/8"}  # fmt: skip
    assert post(client, "calipers", **sizes).status_code == 302
    seen = client.get(reverse("builds:stage", args=[1, "rough"])).context["rough"]
    # Then both are said, the worse one first, and the log has a line that reads back
    assert seen.rows[k].off == pytest.approx(0.002, abs=3e-5)
    assert seen.rows[k].wide_read == pytest.approx(1.875 * INCH)
    assert "thinner than planned" in seen.said[0] and "Most is left" in seen.said[1]
    entry = Entry.objects.latest("pk")
    assert entry.stage == "rough" and "upper thick" in entry.text
    assert found.marks[0].thickness < rows[0].goal


def test_the_same_sizes_may_be_written_with_the_pencil_in_millimetres(client, shop):
    build = Build.objects.get(number=1)
    Build.objects.filter(pk=build.pk).update(stage="rough")
    line = {"line": "upper thick 16.5 at 300; upper floor 5.5 sags 75", "page_world": "metric"}
    assert client.post(reverse("builds:keep", args=[1]), line).status_code in (200, 302)
    seen = client.get(reverse("builds:stage", args=[1, "rough"])).context["rough"]
    assert any(r.read == pytest.approx(0.0165) for r in seen.rows)
    assert seen.floors[0].side == "upper"
    assert any("Press the other limb too" in line for line in seen.said)


def test_the_floor_says_which_limb_is_stiffer(client, shop):
    post(client, "floor", upper_push="16", upper_sag="3", lower_push="10", lower_sag="3")
    seen = client.get(reverse("builds:stage", args=[1, "rough"])).context["rough"]
    assert any("On the floor the upper limb is the stiffer one" in line for line in seen.said)


@pytest.mark.parametrize(
    ("what", "given", "field"),
    [
        ("length", {"length": ""}, "length"),
        ("length", {"length": "three feet"}, "length"),
        ("calipers", {}, None),
        ("calipers", {"thick_0": "40"}, "thick_0"),
        ("floor", {"upper_push": "12"}, "upper_sag"),
        ("floor", {"lower_sag": "3"}, "lower_push"),
        ("floor", {}, None),
    ],
)
def test_what_cannot_be_measured_so_is_said_and_kept_in_the_form(client, shop, what, given, field):
    count = Entry.objects.count()
    answer = post(client, what, **given)
    assert answer.status_code == 422 and Entry.objects.count() == count
    form = getattr(answer.context["forms"], what)
    assert form.errors[field] if field else form.non_field_errors()


def test_what_was_read_of_the_blank_says_nothing_at_the_tiller(client, shop):
    Build.objects.filter(number=1).update(stage="rough")
    post(client, "calipers", thick_0="0.9")
    Build.objects.filter(number=1).update(stage="tiller")
    from fellwind.builds.log import noted, of_the_blank
    from fellwind.builds.services import standing_entries

    entries = standing_entries(Build.objects.get(number=1))
    assert len(of_the_blank(entries)) == 1
    assert not [n for n in noted(entries) if n.statement.kind == "thickness"]


def test_sent_twice_it_is_kept_once(client, shop):
    form = {"length": "66", "client_id": "6f1f4a1e-7f0a-4a62-9d0b-1a2b3c4d5e6f"}
    assert post(client, "length", **form).status_code == 302
    assert post(client, "length", **form).status_code == 302
    assert Entry.objects.filter(text__startswith="length").count() == 1

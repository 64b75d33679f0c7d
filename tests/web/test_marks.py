"""The design room's marks, bow files in and out, layers, the loosed arrow, and what changes would
do.
"""

import html
import json
import re
from dataclasses import replace
from functools import partial
from types import SimpleNamespace
from uuid import uuid4

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from bowyery.bow import bowfile
from bowyery.design.figures import FIGURES
from bowyery.design.sweep import best_of
from bowyery.mechanics import curve as force_curve
from bowyery.mechanics.shot import shoot
from bowyery.mechanics.strain import CREEP, SetForecast, SetShare
from bowyery.units.quantity import GRAIN, INCH, LENGTH, POUND_FORCE, Units, read
from bowyery.wood import materials
from fellwind.builds.models import Entry, Measure
from fellwind.designs import answers, pictures, services, sweeps, words
from fellwind.designs.models import Design
from fellwind.drawing.ruler import pixels_per_metre
from fellwind.kit.models import SentForm
from fellwind.shop import learning
from tests.conftest import signed_in
from tests.core.bows import bow, limb, tied
from tests.web.forms import design_form, made_from, marks_form


def upload(client: Client, shop: SimpleNamespace, text: str | bytes, **change: str) -> object:
    content = text if isinstance(text, bytes) else text.encode()
    form = {
        "file": SimpleUploadedFile("bow.json", content),
        "archer": shop.archer.pk,
        "material": "wych elm",
        "weight": "42",
        "name": "",
    }
    return client.post(reverse("designs:import"), form | change)


def test_a_changed_mark_is_answered_with_before_and_after(
    client: Client, shop: SimpleNamespace
) -> None:
    before = services.solution(shop.design)
    where = reverse("designs:marks_preview", args=[shop.design.pk])
    answer = client.post(where, marks_form(shop.design, upper_thickness_4="0.42")).content.decode()
    thickness = before.bow.upper.thickness.copy()
    thickness[4] = 0.42 * INCH
    after = services.remarked(
        shop.design, replace(before.bow, upper=replace(before.bow.upper, thickness=thickness))
    )
    shown = Units()
    assert after.weight < before.weight
    assert f"{shown.fine_weight(after.weight)}</p>" in answer
    assert f"before {shown.fine_weight(before.weight)}" in answer
    for said in (
        "former-line",
        "Stored energy",
        "leaves at about",
        f"before {before.strain * 100:.2f} %",
        "Mass, about",
    ):
        assert said in answer
    shop.design.refresh_from_db()
    assert shop.design.bow_file == ""
    wrong = client.post(where, marks_form(shop.design, lower_width_2="wide")).content.decode()
    assert "could not be read" in wrong
    weak = client.post(
        where, marks_form(shop.design, upper_thickness_4="0.2", upper_thickness_5="0.2")
    ).content.decode()
    assert "Likely to break: at full draw the" in weak


@pytest.mark.parametrize("world", ["imperial", "metric"])
def test_marks_left_alone_keep_their_exact_figures(
    client: Client, shop: SimpleNamespace, world: str
) -> None:
    before = services.solution(shop.design)
    where = reverse("designs:marks", args=[shop.design.pk])
    assert client.post(where, marks_form(shop.design, world)).status_code == 302
    shop.design.refresh_from_db()
    kept = bowfile.loads(shop.design.bow_file)
    assert kept.upper.thickness == pytest.approx(before.bow.upper.thickness, abs=1e-9)
    assert services.solution(shop.design).weight == pytest.approx(before.weight, rel=1e-6)
    page = client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    assert "as it is marked" in page and "three schools" not in page


def test_kept_marks_stand_until_they_are_solved_again(
    client: Client, shop: SimpleNamespace
) -> None:
    first = services.solution(shop.design).weight
    where = reverse("designs:marks", args=[shop.design.pk])
    client.post(where, marks_form(shop.design, lower_thickness_3="0.44", lower_width_3="1 5/8"))
    shop.design.refresh_from_db()
    kept = services.solution(shop.design)
    assert kept.bow.lower.thickness[3] == pytest.approx(0.44 * INCH)
    assert kept.weight < first
    assert any(m.limb == "lower" and m.width == pytest.approx(1.625 * INCH) for m in kept.marks)
    assert client.get(reverse("designs:marking_pdf", args=[shop.design.pk])).status_code == 200
    assert (
        "set by hand" in client.get(reverse("designs:edit", args=[shop.design.pk])).content.decode()
    )
    again = reverse("designs:solve_again", args=[shop.design.pk])
    client.post(again, made_from(shop.design))
    shop.design.refresh_from_db()
    assert services.solution(shop.design).weight == pytest.approx(first)
    # the tiller reads the marks that stand
    client.post(where, marks_form(shop.design, upper_thickness_3="0.40"))
    assert client.get(reverse("tiller:screen", args=[1])).status_code == 200


@pytest.mark.parametrize(("field", "figure", "says"), [
    ("upper_width_3", "", "required"), ("upper_width_3", "0", "outside what is possible"),
    ("lower_thickness_2", "12 lb", "not a unit of length"), ("lower_thickness_2", "-1", "outside"),
])  # fmt: skip
def test_a_wrong_mark_gets_its_sentence_and_nothing_is_lost(
    client: Client, shop: SimpleNamespace, field: str, figure: str, says: str
) -> None:
    form = marks_form(shop.design, upper_thickness_6="0.37") | {field: figure}
    answer = client.post(reverse("designs:marks", args=[shop.design.pk]), form)
    text = answer.content.decode()
    assert answer.status_code == 422
    assert says in text.split(f'id="id_{field}-error"')[1].split("</p>")[0]
    assert 'value="0.37"' in text
    shop.design.refresh_from_db()
    assert shop.design.bow_file == ""


def test_a_bow_file_goes_out_and_comes_in_as_the_same_bow(
    client: Client, shop: SimpleNamespace
) -> None:
    found = services.solution(shop.design)
    text = client.get(reverse("designs:bow_file", args=[shop.design.pk])).content.decode()
    answer = upload(client, shop, text, name="Come back")
    assert answer.status_code == 302
    design = Design.objects.get(name="Come back")
    again = services.solution(design)
    assert again.weight == pytest.approx(found.weight, rel=1e-5)
    assert again.use == pytest.approx(found.use, rel=1e-4)
    assert (design.draw, design.length) == pytest.approx((shop.design.draw, shop.design.length))
    assert (
        json.loads(client.get(reverse("designs:bow_file", args=[design.pk])).content)["limbs"]
        == json.loads(text)["limbs"]
    )
    assert client.get(reverse("designs:marks", args=[design.pk])).status_code == 200
    assert client.get(reverse("designs:list")).status_code == 200


def test_any_bow_of_the_core_can_be_brought_in(client: Client, shop: SimpleNamespace) -> None:
    recurve = replace(
        limb(),
        unstrung_at=np.array([0.0, 0.5, 0.6, 0.78]),
        unstrung=np.array([0.0, 0.0, -2.5, -2.5]),
    )
    for name, which in {
        "recurve": bow(recurve),
        "bending grip": replace(bow(), grip_stiffness=500.0),
        "back-bow": tied(),
        "by its string": replace(bow(), brace_height=None, string_length=1.62),
    }.items():
        assert (
            upload(client, shop, bowfile.dumps(replace(which, name=name, draw=0.62))).status_code
            == 302
        ), name
        design = Design.objects.get(name=name)
        page = client.get(reverse("designs:detail", args=[design.pk])).content.decode()
        assert "leaves at about" in page, name
        assert design.figures.brace_height == pytest.approx(
            services.solution(design).curve.braced.height[0]
        )
    design = Design.objects.get(name="back-bow")
    found = services.solution(design)
    assert found.shared is not None
    assert (
        f"{found.shared.share[-1] * 100:.0f} %"
        in client.get(reverse("designs:detail", args=[design.pk])).content.decode()
    )
    alone = force_curve.solve(replace(tied(), back_bow=None), np.array([0.62])).drawn.weight[0]
    assert found.weight > 1.1 * alone


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (b"\x89PNG\r\n\x1a\n\xff", "not a text file"),
        ("", "file is empty"),
        ("{", "not a JSON file"),
        ("{}", "key is missing"),
        (
            bowfile.dumps(bow()).replace('"modulus_mpa": 11000.0', '"modulus_mpa": -1'),
            "layers[0].modulus_mpa",
        ),
        (
            bowfile.dumps(bow()).replace('"width_mm": 40.0', '"width_in": 1.6'),
            "check its spelling and unit",
        ),
        (bowfile.dumps(replace(bow(), brace_height=None, string_length=1.75)), "hangs slack"),
        (bowfile.dumps(replace(bow(), draw=1.5)), "cannot give this draw"),
    ],
)
def test_a_wrong_bow_file_is_refused_beside_its_field(
    client: Client, shop: SimpleNamespace, text: str | bytes, says: str
) -> None:
    count = Design.objects.count()
    answer = upload(client, shop, text, name="Never")
    assert answer.status_code == 422
    assert says in answer.content.decode().split('id="id_file-error"')[1].split("</p>")[0]
    assert Design.objects.count() == count


def test_layers_are_laid_on_and_their_glue_lines_shown(
    client: Client, shop: SimpleNamespace
) -> None:
    form = design_form(
        shop.design, back="bamboo slat", back_root="1/8", back_nock="3/32", reflex="1/2"
    )
    assert client.post(reverse("designs:edit", args=[shop.design.pk]), form).status_code == 302
    shop.design.refresh_from_db()
    found = services.solution(shop.design)
    assert found.weight == pytest.approx(42 * POUND_FORCE, rel=0.01)
    assert [layer.role for layer in found.bow.upper.layers] == ["backing", "core"]
    page = client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    (row,) = answers.glue_rows(found)
    assert "backing and core" in page and Units().stress(row.shear) in page
    assert "Use of layers" in page and found.uses.limit is not None
    assert f"of its {found.uses.limit.bears * 100:.2f} % limit" in page and found.verdict in page
    empty = client.post(
        reverse("designs:edit", args=[shop.design.pk]),
        form | made_from(shop.design) | {"back_root": "0", "back_nock": "0"},
    )
    assert empty.status_code == 422 and "how thick this layer is" in empty.content.decode()
    wide = design_form(shop.design, back="", solve_for="width", depth_root="1/2", depth_nock="3/8")
    assert client.post(reverse("designs:edit", args=[shop.design.pk]), wide).status_code == 302
    shop.design.refresh_from_db()
    assert services.solution(shop.design).bow.upper.thickness[0] == pytest.approx(0.5 * INCH)


def test_the_arrows_speed_is_the_cores(client: Client, shop: SimpleNamespace) -> None:
    shop.design.change(arrow=450 * GRAIN)
    shop.design.save()
    found = services.solution(shop.design)
    shot = shoot(found.bow, shop.design.draw, 450 * GRAIN)
    page = client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    shown = Units()
    assert "450 gr" in page and f"{shown.speed(shot.speed)}</p>" in page
    assert f"{shown.speed(shot.low)} to {shown.speed(shot.high)}" in page
    quick = answers.loosed(shop.design, found, quick=True)[0]
    assert quick is not None and quick.speed == pytest.approx(shot.speed, rel=0.015)


def test_a_chronograph_at_proof_narrows_the_forecast_of_its_design(
    client: Client, shop: SimpleNamespace
) -> None:
    shop.design.change(arrow=450 * GRAIN)
    found = services.solution(shop.design)
    before = answers.loosed(shop.design, found)[0]
    assert before is not None and before.read == 0
    slow = 0.96 * before.speed
    prove(shop, found.weight, slow)
    again = answers.loosed(shop.design, found)[0]
    assert again is not None and again.read == 1
    assert again.high - again.low < 0.6 * (before.high - before.low)
    assert abs(again.speed / slow - 1) < 0.4 * abs(before.speed / slow - 1)


def test_a_chronograph_that_fits_no_such_bow_changes_nothing(
    client: Client, shop: SimpleNamespace
) -> None:
    shop.design.change(arrow=450 * GRAIN)
    found = services.solution(shop.design)
    before = answers.loosed(shop.design, found)[0]
    assert before is not None
    prove(shop, found.weight, 3 * before.speed)
    again = answers.loosed(shop.design, found)[0]
    assert again is not None and again.speed == before.speed and again.read == 0


def prove(shop: SimpleNamespace, weight: float, speed: float) -> None:
    """A proof's figures in the log."""
    entry = Entry.objects.create(
        build=shop.build, kind="proof", stage="proof", text="proof", by=shop.people.maker
    )
    for kind, value in (("weight", weight), ("arrow mass", 450 * GRAIN), ("arrow speed", speed)):
        Measure.objects.create(entry=entry, kind=kind, value=value, text="x")


def test_what_changes_would_do_is_what_the_core_says(client: Client, shop: SimpleNamespace) -> None:
    found, where = services.solution(shop.design), reverse("designs:changes", args=[shop.design.pk])
    rows = answers.changes(shop.design, found, Units())
    page = client.get(where).content.decode()
    for row in rows:
        assert row.what in page.replace(row.what.capitalize(), row.what)
        assert row.weight is None or Units().fine_weight(row.weight) in page
    cuts = [row.weight for row in rows if "off each end" in row.what]
    assert len(cuts) == 6 and cuts == sorted(cuts) and cuts[0] > rows[0].weight
    metric = answers.changes(shop.design, found, Units("metric"))
    assert any("75 mm off each end" in row.what for row in metric)


def test_what_cannot_be_built_is_answered_with_what_can(
    client: Client, shop: SimpleNamespace
) -> None:
    form = design_form(shop.design, length="44")
    preview = client.post(reverse("designs:preview", args=[shop.design.pk]), form).content.decode()
    assert 'role="alert"' in preview and reverse("designs:near", args=[shop.design.pk]) in preview
    near = client.post(reverse("designs:near", args=[shop.design.pk]), form).content.decode()
    assert "The nearest that can be built: " in near and " in long</button>" in near
    told = client.get(reverse("designs:nearest", args=[shop.design.pk])).content.decode()
    assert told == ""  # it can be built as it is kept
    # one press takes it, and that can be kept
    act = json.loads(html.unescape(near.split('data-shape-act="')[1].split('"')[0]))
    assert act["action"] == "take"
    taken = client.post(reverse("designs:shape_new"), form | act)
    assert f'value="{act["take_length"]}"' in taken.content.decode()
    longer = client.post(
        reverse("designs:edit", args=[shop.design.pk]), form | {"length": act["take_length"]}
    )
    assert longer.status_code == 302
    assert client.post(reverse("designs:near_new"), form | {"length": "long"}).content == b""


def test_a_bow_of_very_many_marks_is_shown_and_not_edited_mark_by_mark(
    client: Client, shop: SimpleNamespace
) -> None:
    at = np.linspace(0, 0.78, 400)
    side = limb()
    many = replace(
        side,
        at=at,
        width=np.interp(at, side.at, side.width),
        thickness=np.interp(at, side.at, side.thickness),
    )
    assert (
        upload(client, shop, bowfile.dumps(replace(bow(many), name="Many", draw=0.62))).status_code
        == 302
    )
    design = Design.objects.get(name="Many")
    answer = client.get(reverse("designs:marks", args=[design.pk]), follow=True)
    assert "too many marks" in answer.content.decode()


def test_a_length_is_solved_for(client: Client, shop: SimpleNamespace) -> None:
    where = reverse("designs:solve_length", args=[shop.design.pk])
    form = {"measure": "use", "use": "95", "follow": "", "page_world": "imperial"}
    assert client.post(where, form | made_from(shop.design)).status_code == 302
    shop.design.refresh_from_db()
    assert services.solution(shop.design).use == pytest.approx(0.95, abs=0.05)
    first = shop.design.length
    form |= made_from(shop.design)
    client.post(where, form | {"measure": "set", "use": "", "follow": "2"})
    shop.design.refresh_from_db()
    assert shop.design.length < first
    for change, field, says in (
        ({"use": ""}, "use", "how much it may be"),
        ({"use": "900"}, "use", "less than or equal"),
        ({"measure": "set", "follow": "a lot"}, "follow", "could not be read"),
    ):
        answer = client.post(where, form | made_from(shop.design) | change)
        assert answer.status_code == 422
        assert (
            says in answer.content.decode().split(f'id="length_{field}-error"')[1].split("</p>")[0]
        )
    client.post(where, form | made_from(shop.design) | {"use": "30"}, follow=True)
    assert Design.objects.get(pk=shop.design.pk).length == shop.design.length


def test_a_guest_changes_no_marks_and_brings_nothing_in(shop: SimpleNamespace) -> None:
    guest = signed_in(shop.people.guest)
    assert (
        guest.post(
            reverse("designs:marks", args=[shop.design.pk]), marks_form(shop.design)
        ).status_code
        == 403
    )
    assert upload(guest, shop, bowfile.dumps(bow())).status_code == 403
    assert guest.post(reverse("designs:solve_again", args=[shop.design.pk])).status_code == 403


def test_up_to_four_designs_are_compared(client: Client, shop: SimpleNamespace) -> None:
    keys = [shop.design.pk]
    for name, length in (
        ("Long", 74),
        ("Short", 60),
        ("Longer", 80),
        ("Fifth", 70),
        ("Cannot be", 40),
    ):
        keys.append(
            Design.objects.create(
                **{
                    f: getattr(shop.design, f)
                    for f in ("archer", "material", "sizes", "weight", "draw", "fingers")
                },
                name=name,
                length=length * INCH,
            ).pk
        )
    page = client.get(reverse("designs:compare"), {"d": keys[:3]}).content.decode()
    for pk in keys[:3]:
        found = services.solution(Design.objects.get(pk=pk))
        assert Units().fine_weight(found.weight) in page and f"{found.use * 100:.0f} %" in page
    assert page.count('class="wood"') == 3 and "variant-2" in page
    many = client.get(reverse("designs:compare"), {"d": keys}).content.decode()
    assert many.count('class="wood"') == 4
    broken = client.get(reverse("designs:compare"), {"d": [keys[-1], keys[0]]}).content.decode()
    assert 'role="alert"' in broken and broken.count('class="wood"') == 1
    for odd in ({}, {"d": "²"}, {"d": "9" * 40}, {"d": "x"}):
        assert "Tick up to four" in client.get(reverse("designs:compare"), odd).content.decode()


def test_a_variant_is_made_changed_and_compared(client: Client, shop: SimpleNamespace) -> None:
    answer = client.post(reverse("designs:vary", args=[shop.design.pk]))
    variant = Design.objects.get(name__contains="variant 1")
    assert answer["Location"] == reverse("designs:edit", args=[variant.pk])
    assert (variant.length, variant.weight, variant.stave) == (
        shop.design.length,
        shop.design.weight,
        shop.design.stave,
    )
    page = client.get(answer["Location"]).content.decode()
    assert f"{reverse('designs:compare')}?d={shop.design.pk}&amp;d={variant.pk}" in page
    client.post(reverse("designs:edit", args=[variant.pk]), design_form(variant, width="2"))
    shop.design.refresh_from_db()
    assert shop.design.figures.width == pytest.approx(1.75 * INCH)
    assert Design.objects.get(pk=variant.pk).figures.width == pytest.approx(2 * INCH)


def test_two_measures_are_swept_and_the_best_is_named(
    client: Client, shop: SimpleNamespace
) -> None:
    where = reverse("designs:sweep", args=[shop.design.pk])
    page = client.get(where).content.decode()
    found = services.solution(shop.design)
    answer = sweeps.swept(shop.design, found, "length", "width")
    best = best_of(answer, shop.design.weight)
    assert best is not None and abs(answer.weight[best] / shop.design.weight - 1) < 0.03
    near = np.abs(answer.weight / shop.design.weight - 1) < 0.03
    assert answer.use[best] == pytest.approx(answer.use[near].min())
    assert f"it would pull {Units().fine_weight(answer.weight[best])}" in page
    assert page.count("sweep-map") == 3 and "400 bows" in page
    assert client.get(where, {"first": "reflex", "second": "tip width"}).status_code == 200
    woods = client.get(where, {"first": "length", "second": "wood"}).content.decode()
    assert f"{20 * len(materials.woods())} bows" in woods and all(
        f">{name}</text>" in woods for name in materials.woods()
    )
    for odd in ({"first": "width", "second": "width"}, {"first": "colour", "second": "width"}):
        assert "Choose two different measures" in client.get(where, odd).content.decode()
    assert best_of(answer, 5000.0) is None


def test_the_lay_out_is_walked_mark_by_mark(client: Client, shop: SimpleNamespace) -> None:
    where, found, shown = (
        reverse("designs:walk", args=[shop.design.pk]),
        services.solution(shop.design),
        Units(),
    )
    steps = words.walk(shop.design, found, shown)
    assert len(steps) == 7 + len(found.marks)
    seen = [client.get(where, {"step": k}).content.decode() for k in range(1, len(steps) + 1)]
    for page, step in zip(seen, steps, strict=True):
        assert step.figure in page
    assert "the two halves must agree" in seen[2]
    assert f"{shown.thickness(found.marks[0].width / 2)} + " in seen[6]
    assert "find the centre again" in seen[-1] and "The lay-out is done" in seen[-1]
    for odd in ("0", "999", "x", "²", "-3"):
        assert client.get(where, {"step": odd}).status_code == 200


def test_secondary_risks_are_said_with_what_would_mend_them(
    client: Client, shop: SimpleNamespace
) -> None:
    def said(**change: object) -> str:
        design = Design.objects.get(pk=shop.design.pk)
        for name, value in change.items():
            design.change(**{name: value}) if name in FIGURES else setattr(design, name, value)
        return " ".join(
            words.warnings(found := services.solution(design), design, Units(), found.verdict)
        )

    calm = said()
    assert "turn aside" not in calm and "abrupt" not in calm and "brittle" not in calm
    assert "may turn aside" in said(width=0.6 * INCH, tip_width=0.4 * INCH)
    assert "so abrupt a step" in said(fade=0.5 * INCH)
    assert "heavy tips" in said(tip_width=1.7 * INCH, least_tip=0.6 * INCH)
    assert "takes more set" in said(moisture=0.15) and "brittle" in said(moisture=0.045)
    shop.stave.drift, shop.stave.drift_over = 0.08, 0.5
    shop.stave.save()
    assert "runs off and leaves" in said()


def acted(
    client: Client, shop: SimpleNamespace, form: dict[str, str], **what: str
) -> dict[str, str]:
    """What the marks form holds after an act."""
    answer = client.post(reverse("designs:marks_act", args=[shop.design.pk]), form | what)
    assert answer.status_code == 200
    text = answer.content.decode()
    fields = dict(re.findall(r'<input type="(?:text|hidden)" name="([^"]+)" value="([^"]*)"', text))
    fields |= dict.fromkeys(re.findall(r'name="(lock_[a-z_0-9]+)" checked', text), "on")
    said = re.search(r'role="alert">([^<]*)<', text.split("hx-swap-oob")[0])
    return {k: html.unescape(v) for k, v in fields.items() if k != "csrfmiddlewaretoken"} | {
        "said": said[1] if said else ""
    }


def test_points_are_dragged_and_stepped_on_the_ruler(client: Client, shop: SimpleNamespace) -> None:
    form = marks_form(shop.design)
    page = client.get(reverse("designs:marks", args=[shop.design.pk])).content.decode()
    found = services.solution(shop.design)
    assert page.count("data-handle=") == 2 * len(found.marks)
    up = acted(client, shop, form, action="step", name="upper_thickness_4", nudge="up")
    assert (form["upper_thickness_4"], up["upper_thickness_4"]) == ("15/32", "31/64")
    assert up["lower_thickness_4"] == form["lower_thickness_4"]
    data = pictures.ruler_data(found)
    for name, is_width in (("upper_thickness_4", False), ("lower_width_6", True)):
        pixels = pixels_per_metre(data, is_width) * 3 * INCH / 64
        thinner = acted(client, shop, form, action="drag", name=name, dy=str(pixels))
        assert read(thinner[name], LENGTH, "imperial") == pytest.approx(
            read(form[name], LENGTH, "imperial") - 3 * INCH / 64, abs=1e-9
        )
    held = acted(
        client,
        shop,
        form | {"lock_upper_thickness_4": "on"},
        action="step",
        name="upper_thickness_4",
        nudge="up",
    )
    assert held["upper_thickness_4"] == "15/32" and held["lock_upper_thickness_4"] == "on"
    far = acted(client, shop, form, action="drag", name="upper_thickness_4", dy="9999")
    assert read(far["upper_thickness_4"], LENGTH, "imperial") >= 0.0009
    for odd in (
        {"action": "drag", "name": "draft", "dy": "3"},
        {"action": "step", "name": "x"},
        {"action": "drag", "name": "upper_width_1", "dy": "nan"},
        {"action": "fly"},
        {"action": "remove", "side": "middle", "number": "²"},
    ):
        same = acted(client, shop, form, **odd)
        assert same["upper_width_1"] == form["upper_width_1"]


def test_marks_come_and_go_and_limbs_are_mirrored(client: Client, shop: SimpleNamespace) -> None:
    form = marks_form(shop.design)
    count = sum(k.startswith("upper_width") for k in form)
    more = acted(client, shop, form, action="add", side="upper", place="15")
    assert sum(k.startswith("upper_width") for k in more) == count + 1 and not more["said"]
    assert read(more["upper_thickness_6"], LENGTH, "imperial") == pytest.approx(
        (
            read(form["upper_thickness_5"], LENGTH, "imperial")
            + read(form["upper_thickness_6"], LENGTH, "imperial")
        )
        / 2,
        abs=INCH / 64,
    )
    less = acted(client, shop, more, action="remove", side="upper", number="6")
    assert sum(k.startswith("upper_width") for k in less) == count
    for what, says in (
        ({"action": "add", "side": "upper", "place": "90"}, "between the fade and the nock"),
        ({"action": "add", "place": "14"}, "already"),
        ({"action": "add", "place": "far"}, "could not be read"),
        ({"action": "remove", "number": "0"}, "stay"),
    ):
        wrong = acted(client, shop, form, **what)
        assert says in wrong["said"] and wrong["upper_width_3"] == form["upper_width_3"]
    changed = form | {
        "upper_width_3": "1 1/2",
        "upper_thickness_3": "0.4",
        "lock_lower_thickness_3": "on",
    }
    even = acted(client, shop, changed, action="mirror", side="upper")
    assert (
        even["lower_width_3"] == "1 1/2" and even["lower_thickness_3"] == form["lower_thickness_3"]
    )
    # what was added and mirrored is kept as it stands
    assert client.post(reverse("designs:marks", args=[shop.design.pk]), more).status_code == 302
    shop.design.refresh_from_db()
    assert services.solution(shop.design).bow.upper.at.size == count + 1
    wrong = acted(client, shop, form | {"upper_width_2": "2 lb"}, action="mirror", side="upper")
    assert wrong["upper_width_2"] == "2 lb"
    assert client.post(
        reverse("designs:marks", args=[shop.design.pk]), form | {"draft": "{"}
    ).status_code in (302, 422)


def test_a_schools_length_is_taken(client: Client, shop: SimpleNamespace) -> None:
    where = reverse("designs:take_length", args=[shop.design.pk])
    rows = {r.school: r.answer.layout for r in answers.schools(shop.design)}
    for school in ("B", "A"):
        assert client.post(where, {"school": school} | made_from(shop.design)).status_code == 302
        shop.design.refresh_from_db()
        assert shop.design.length == pytest.approx(rows[school].length)
    client.post(where, {"school": "Z"} | made_from(shop.design))
    assert (
        "Choose school A, B or C"
        in client.get(reverse("designs:detail", args=[shop.design.pk])).content.decode()
    )


def test_the_bend_is_chosen_by_picture_and_the_wood_by_its_school(
    client: Client, shop: SimpleNamespace
) -> None:
    page = client.get(reverse("designs:edit", args=[shop.design.pk])).content.decode()
    assert page.count("bend-picture") == 5 and "one ring, chased" in page
    form = design_form(shop.design, family="whip-ended", back_is="ring", centre_line="straight")
    assert client.post(reverse("designs:edit", args=[shop.design.pk]), form).status_code == 302
    shop.design.refresh_from_db()
    now = shop.design.figures
    assert (now.family, now.back_is, now.centre_line) == ("whip-ended", "ring", "straight")
    steps = words.walk(shop.design, services.solution(shop.design), Units())
    assert any("One growth ring unbroken" in s.check for s in steps) and any(
        "Straight, whatever" in s.check for s in steps
    )


def test_what_is_only_answered_never_takes_a_form_for_sent(
    client: Client, shop: SimpleNamespace
) -> None:
    form_id = uuid4()
    SentForm.objects.create(
        form_id=form_id, person=shop.people.maker
    )  # an answer to the same form is still under way
    typed = design_form(shop.design) | {"form_id": str(form_id)}
    for name, args in (
        ("designs:preview", [1]),
        ("designs:preview_new", []),
        ("designs:near", [1]),
        ("designs:near_new", []),
    ):
        assert client.post(reverse(name, args=args), typed).status_code == 200, name
    for name in ("designs:marks_preview", "designs:marks_act"):
        assert client.post(reverse(name, args=[1]), {"form_id": str(form_id)}).status_code == 200, (
            name
        )
    assert SentForm.objects.count() == 1
    assert client.post(reverse("designs:edit", args=[1]), typed)["Location"] == "/"


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        (
            {"section": "tube", "tip_width": "1 3/4", "tube_wall": "1"},
            "tube_wall",
            "thicker than half the tube",
        ),
        (
            {"section": "tube", "tip_width": "1/2", "tube_wall": "1/8"},
            "tip_width",
            "A tube is of one size",
        ),
        (
            {"section": "crowned back", "section_radius": "0.1"},
            "section_radius",
            "outside what is possible",
        ),
        ({"back_bow_length": "66"}, "back_bow_length", "the shorter one"),
        ({"back_bow_length": "12"}, "back_bow_length", "ends at the grip"),
        (
            {"back_bow_length": "48", "cable_tension": "0"},
            "cable_tension",
            "outside what is possible",
        ),
    ],
)
def test_impossible_tubes_and_back_bows_are_answered_beside_their_field(
    client: Client, shop: SimpleNamespace, change: dict[str, str], field: str, says: str
) -> None:
    answer = client.post(
        reverse("designs:edit", args=[shop.design.pk]), design_form(shop.design, **change)
    )
    page = answer.content.decode()
    assert answer.status_code == 422 and says in page
    assert f'id="id_{field}-error"' in page.split(says)[0][-400:] + page.split(says)[1][:200]


def test_finished_bows_narrow_the_follow_that_is_forecast(
    client: Client, shop: SimpleNamespace
) -> None:
    found = services.solution(shop.design)
    where = reverse("designs:detail", args=[shop.design.pk])
    assert "of this shop" not in client.get(where).content.decode()
    assert learning.set_share(shop.design) == SetShare()
    took = found.set.made + CREEP * found.set.creep + 0.55 * found.set.beyond
    entry = Entry.objects.create(
        build=shop.build, kind="proof", stage="proof", text="proof", by=shop.people.maker
    )
    Measure.objects.create(entry=entry, kind="string follow", value=0.05, text="2 in")
    Measure.objects.create(entry=entry, kind="follow after an hour", value=took, text="x")
    share = learning.set_share(shop.design)
    assert share.bows == 1 and 0.45 < share.share < 0.56 and share.spread < SetShare().spread
    assert "by 1 bow of this shop" in client.get(where).content.decode()


def test_what_becomes_of_reflex_is_told_apart_by_how_it_came() -> None:
    shown = Units()
    grown = SetForecast(-0.05, 0.02, 0.05, SetShare())
    assert words.reflex_words(replace(grown, made=0.0), False, shown) == ""
    assert words.reflex_words(grown, False, shown).endswith("goes by bending.")
    glued = words.reflex_words(replace(grown, returns=(0.05, 0.04)), False, shown)
    heated = words.reflex_words(replace(grown, returns=(0.2, 0.1)), True, shown)
    assert "as the glue settles" in glued and "as heat lets go" in heated
    assert f"{shown.length(0.01)} as heat" in heated


def test_follow_is_said_net_of_reflex() -> None:
    shown, share = Units(), SetShare()
    told = partial(SetForecast, share=share)
    assert words.follow_words(told(0.0, 0.0, 0.01), shown)[0] == "none to speak of"
    plain, ends = words.follow_words(told(0.0, 0.06, 0.1), shown)
    assert "reflex" not in plain + ends and " to " in ends
    left, ends = words.follow_words(told(-0.05, 0.02, 0.05), shown)
    assert left.endswith("of reflex left") and "follow" not in ends
    _, over = words.follow_words(told(-0.02, 0.06, 0.1), shown)
    assert "of reflex left to" in over

"""The rack: flaws mapped by form, pointer and key; sections; bend tests; and bows laid into
staves.
"""

import io
import re
from datetime import timedelta
from pathlib import Path
from types import SimpleNamespace
from uuid import uuid4

import numpy as np
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from bowyery.units.quantity import GRAIN, INCH, POUND_FORCE
from bowyery.wood.materials import material
from fellwind.designs import fitting
from fellwind.designs.services import solution, wood_of
from fellwind.drawing.stave import ruler_of
from fellwind.kit.photos import photo_path
from fellwind.rack import services
from fellwind.rack.models import Flaw, Photo, Section, Stave
from fellwind.shop.models import Workshop
from tests.conftest import signed_in
from tests.web.forms import STAVE, design_form

FLAW = {
    "kind": "tight knot",
    "face": "back",
    "at": "20",
    "off": "-1/4",
    "length": "1/2",
    "width": "3/8",
    "depth": "1/4",
    "page_world": "imperial",
    "flaw": "",
}
FIT, FITS = ("/staves/1/fit/", "/staves/1/fits/")
HTMX = {"HTTP_HX_REQUEST": "true"}


def at(name: str, *args: int) -> str:
    return reverse(f"rack:{name}", args=[1, *args])


def noted(client: Client, shop: SimpleNamespace, **change: str) -> Flaw:
    assert client.post(at("flaw_keep"), FLAW | change).status_code == 302
    return Flaw.objects.filter(stave=shop.stave).standing().order_by("-pk")[0]


def test_a_flaw_is_noted_shown_and_changed_without_losing_the_old_figure(
    client: Client, shop: SimpleNamespace
) -> None:
    flaw = noted(client, shop)
    assert (flaw.at, flaw.off, flaw.width) == pytest.approx((20 * INCH, -0.25 * INCH, 0.375 * INCH))
    assert flaw.by == shop.people.maker and "at 20 in" in flaw.text
    page = client.get(at("detail")).content.decode()
    assert f'data-flaw="{flaw.pk}"' in page and "tight knot, back, 20 in from the left end" in page
    form = client.get(at("flaw_form"), {"flaw": flaw.pk}).content.decode()
    assert "Change this flaw" in form and 'value="20"' in form
    noted(client, shop, kind="loose knot", flaw=str(flaw.pk))
    flaw.refresh_from_db()
    assert flaw.replaced_by is not None and flaw.kind == "tight knot"
    (one,) = Flaw.objects.filter(stave=shop.stave).standing()
    assert one.kind == "loose knot"


def test_touching_the_picture_asks_for_the_form_with_that_place(
    client: Client, shop: SimpleNamespace
) -> None:
    ruler = ruler_of(services.core_stave(shop.stave))
    form = client.get(
        at("flaw_form"), {"x": ruler.x(24 * INCH), "y": ruler.y(0.5 * INCH)}
    ).content.decode()
    assert re.search(r'name="at" value="24"', form) and re.search(r'name="off" value="1/2"', form)
    for odd in ({"x": "nan", "y": "1"}, {"x": "here"}, {}, {"flaw": "²"}, {"flaw": "9" * 40}):
        assert client.get(at("flaw_form"), odd).status_code == 200, odd


def test_flaws_are_dragged_stepped_sized_and_struck(client: Client, shop: SimpleNamespace) -> None:
    flaw = noted(client, shop)
    ruler = ruler_of(services.core_stave(Stave.objects.get(pk=shop.stave.pk)))

    def move(**values: str) -> Flaw:
        nonlocal flaw
        answer = client.post(at("flaw_move", flaw.pk), values, **HTMX)
        assert answer.status_code == 200 and f'data-replaces="{flaw.pk}"' in answer.content.decode()
        flaw = Flaw.objects.filter(stave=shop.stave).standing().get()
        return flaw

    moved = move(dx=str(3 * INCH * ruler.scale), dy=str(-0.5 * INCH * ruler.tall))
    assert (moved.at, moved.off) == pytest.approx((23 * INCH, 0.25 * INCH))
    assert move(nudge="right").at == pytest.approx(23.125 * INCH)
    assert move(nudge="down").off == pytest.approx(0.125 * INCH)
    assert move(nudge="larger").length == pytest.approx(0.6 * INCH)
    far = move(dx="99999", dy="99999")
    assert far.at == pytest.approx(shop.stave.length) and abs(far.off) <= shop.stave.width / 2
    services.core_stave(Stave.objects.get(pk=shop.stave.pk))
    for odd in ({"dx": "nan", "dy": "0"}, {"dx": "wide", "dy": "0"}, {}):
        assert (
            client.post(
                at("flaw_move", Flaw.objects.filter(stave=shop.stave).standing().get().pk),
                odd,
                **HTMX,
            ).status_code
            == 200
        )
    last = Flaw.objects.filter(stave=shop.stave).standing().get()
    assert client.post(at("flaw_drop", last.pk), **HTMX).status_code == 200
    assert not Flaw.objects.filter(stave=shop.stave).standing().exists()
    late = client.post(at("flaw_move", last.pk), {"nudge": "left"}, follow=True)
    assert "struck this" in late.content.decode()


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"at": "200"}, "at", "off the stave"),
        ({"off": "3"}, "off", "beyond the stave&#x27;s edge"),
        ({"depth": "0"}, "depth", "outside"),
        ({"kind": "hole"}, "kind", "not one of the available"),
        ({"width": "2 lb"}, "width", "not a unit of length"),
    ],
)
def test_a_wrong_flaw_gets_its_sentence(
    client: Client, shop: SimpleNamespace, change: dict[str, str], field: str, says: str
) -> None:
    for headers, status in (({}, 422), (HTMX, 200)):
        answer = client.post(at("flaw_keep"), FLAW | change, **headers)
        text = answer.content.decode()
        assert answer.status_code == status
        assert says in text.split(f'id="flaw_{field}-error"')[1].split("</p>")[0]
    assert not Flaw.objects.exists()


def test_sections_shape_the_stave_and_are_corrected_by_newer_ones(
    client: Client, shop: SimpleNamespace
) -> None:
    section = {
        "at": "30",
        "width": "2 3/4",
        "depth": "",
        "crown": "4",
        "side": "-1/2",
        "sideways": "1/8",
        "twist": "4",
        "page_world": "imperial",
    }
    assert client.post(at("section_keep"), section).status_code == 302
    wood = services.core_stave(Stave.objects.get(pk=shop.stave.pk))
    middle = 30 * INCH
    assert np.interp(middle, wood.at, wood.width) == pytest.approx(2.75 * INCH)
    assert np.interp(middle, wood.at, wood.depth) == pytest.approx(shop.stave.depth)
    assert np.interp(middle, wood.at, wood.crown) == pytest.approx(4 * INCH)
    assert np.interp(middle, wood.side_at, wood.side) == pytest.approx(-0.5 * INCH)
    assert wood.twist[-1] == pytest.approx(np.radians(4))
    client.post(at("section_keep"), section | {"width": "2 1/2"})
    assert Section.objects.count() == 2 and Section.objects.standing().get().width == pytest.approx(
        2.5 * INCH
    )
    empty = {"at": "30", "page_world": "imperial"}
    assert "at least one figure" in client.post(at("section_keep"), empty, **HTMX).content.decode()
    assert (
        "off the stave"
        in client.post(at("section_keep"), section | {"at": "99"}, **HTMX).content.decode()
    )


def test_a_bend_test_becomes_the_wood_of_every_later_design(
    client: Client, shop: SimpleNamespace
) -> None:
    modulus, span, width, depth, load = 9.5e9, 24 * INCH, 1 * INCH, 0.3 * INCH, 4 * POUND_FORCE
    sag = load * span**3 / (4 * modulus * width * depth**3)
    form = {
        "span": "24",
        "load": "4",
        "sag": f"{sag / INCH:.4f}",
        "width": "1",
        "depth": "0.3",
        "moisture": "12",
        "length": "",
        "mass": "",
        "page_world": "imperial",
    }
    assert client.post(at("strip_keep"), form).status_code == 302
    shop.stave.refresh_from_db()
    assert shop.stave.modulus == pytest.approx(modulus, rel=0.002)
    shop.design.refresh_from_db()
    assert wood_of(shop.design).modulus > modulus  # the design's wood is drier than 12 %
    # the same strip read while wetter is stiffer once dried
    client.post(at("strip_keep"), form | {"moisture": "18"})
    shop.stave.refresh_from_db()
    assert shop.stave.modulus > 1.05 * modulus
    for change, field, says in (
        ({"sag": "6"}, "sag", "no longer in proportion"),
        ({"span": "3"}, "span", "fourteen times"),
        ({"load": "200"}, "load", "check the units"),
    ):
        answer = client.post(at("strip_keep"), form | change)
        assert answer.status_code == 422
        assert (
            says in answer.content.decode().split(f'id="strip_{field}-error"')[1].split("</p>")[0]
        )


def test_every_kind_of_stock_keeps_its_own_questions(client: Client, shop: SimpleNamespace) -> None:
    content = STAVE | {
        "kind": "board",
        "drift": "1/4",
        "drift_over": "40",
        "ring": "1/16",
        "late_share": "60",
        "source": "the yard",
        "price": "24",
        "cut_left": "1/2",
        "cut_right": "0",
        "bought_at": "11",
    }
    assert client.post(reverse("rack:new"), content).status_code == 302
    stave = Stave.objects.get(number=2)
    assert (stave.late_share, stave.drift, stave.cut_left) == pytest.approx(
        (0.6, 0.25 * INCH, 0.5 * INCH)
    )
    page = client.get(reverse("rack:detail", args=[2])).content.decode()
    assert (
        "The grain runs off at 0.4°" in page
        and "67 ½ in of sound wood" in page
        and "the yard" in page
    )
    half = client.post(reverse("rack:new"), content | {"drift_over": ""})
    assert half.status_code == 422 and "wants both figures" in half.content.decode()
    gone = client.post(reverse("rack:new"), content | {"cut_left": "68"})
    assert gone.status_code == 422 and "leaves nothing" in gone.content.decode()
    for kind in ("bamboo culm", "glass", "lamination", "sapling"):
        assert client.post(reverse("rack:new"), content | {"kind": kind}).status_code == 302


def test_a_bow_is_laid_where_its_flaws_do_least(client: Client, shop: SimpleNamespace) -> None:
    noted(client, shop, at="36 1/2", off="0", kind="through knot", face="through")
    noted(client, shop, at="1/4", off="0", kind="end check")
    found = solution(shop.design)
    _, outline, fit = fitting.fitted(Stave.objects.get(pk=shop.stave.pk), found)
    assert outline.length == pytest.approx(shop.design.length)
    assert outline.use[outline.at.size // 2] < 0.15 < outline.use.max()
    page = client.get(FIT, {"design": shop.design.pk}).content.decode()
    assert f"{fit.best[0].score:.0f} of 100" in page
    assert "the end check, falls off the end of the bow" in page
    assert page.count('class="placement"') == len(fit.best)
    assert "through knot" in page and 'class="laid"' in page
    fits = client.get(FITS).content.decode()
    assert shop.design.name in fits and f"{fit.best[0].score:.0f} of 100" in fits
    assert FITS in client.get(reverse("rack:list")).content.decode()
    which = client.get(reverse("fit:staves", args=[shop.design.pk])).content.decode()
    assert "stave 1" in which and f"{fit.best[0].score:.0f} of 100" in which


def test_twist_and_a_limb_that_bends_by_nature_are_told_with_what_mends_them(
    client: Client, shop: SimpleNamespace
) -> None:
    straight = client.get(FIT, {"design": shop.design.pk}).content.decode()
    assert "The wood twists" not in straight and "By nature" not in straight
    for place, side, twist in (("36", "0", ""), ("52", "1 1/4", ""), ("70", "0", "9")):
        noted_at = {
            "at": place,
            "width": "",
            "depth": "",
            "crown": "",
            "side": side,
            "sideways": "",
            "twist": twist,
        }
        assert (
            client.post(at("section_keep"), noted_at | {"page_world": "imperial"}).status_code
            == 302
        )
    found = solution(shop.design)
    _, _, fit = fitting.fitted(Stave.objects.get(pk=shop.stave.pk), found)
    page = client.get(FIT, {"design": shop.design.pk}).content.decode()
    best = fit.best[0]
    assert (
        f"The wood twists {abs(np.degrees(best.twist)):.0f}° from nock to nock: straighten it by"
        " heat" in page
    )
    assert (
        f"By nature the {'upper' if best.uneven > 0 else 'lower'} limb" in page
        and abs(best.uneven) > 0.5 * INCH
    )


def test_a_stave_that_cannot_hold_the_bow_says_what_would_help(
    client: Client, shop: SimpleNamespace
) -> None:
    Stave.objects.update(length=60 * INCH)
    page = client.get(FIT, {"design": shop.design.pk}).content.decode()
    assert "too short for the bow" in page and "a shorter bow" in page
    assert "too short" in client.get(reverse("fit:staves", args=[shop.design.pk])).content.decode()
    Stave.objects.update(length=72 * INCH, width=1.25 * INCH)
    narrow = client.get(FIT, {"design": shop.design.pk}).content.decode()
    assert (
        "No place is a sound one" in narrow
        and "a narrower bow" in narrow
        and "too narrow on a side" in narrow
    )
    for odd in ("999", "²", "9" * 30, "x"):
        assert client.get(FIT, {"design": odd}).status_code == 200
    client.post(reverse("designs:edit", args=[shop.design.pk]), design_form(shop.design))
    type(shop.design).objects.update(length=40 * INCH)
    assert 'role="alert"' in client.get(FIT, {"design": shop.design.pk}).content.decode()


def test_a_board_needs_no_depth_for_the_handle_that_is_glued_on(
    client: Client, shop: SimpleNamespace
) -> None:
    Stave.objects.update(kind="log split", depth=0.875 * INCH)
    assert (
        "too thin at its worst place"
        in client.get(FIT, {"design": shop.design.pk}).content.decode()
    )
    Stave.objects.update(kind="board")
    page = client.get(FIT, {"design": shop.design.pk}).content.decode()
    assert "too thin" not in page and "built up with a block" in page


def test_guests_look_and_write_nothing(shop: SimpleNamespace) -> None:
    guest = signed_in(shop.people.guest)
    page = guest.get(at("detail")).content.decode()
    assert "data-move" not in page and "Keep the flaw" not in page
    assert guest.post(at("flaw_keep"), FLAW).status_code == 403
    assert guest.post(at("section_keep"), {"at": "3", "width": "2"}).status_code == 403
    assert guest.get(FIT, {"design": shop.design.pk}).status_code == 200


def test_wood_with_no_figures_of_its_own_keeps_the_books(shop: SimpleNamespace) -> None:
    assert shop.stave.modulus is None
    assert wood_of(shop.design).rupture == pytest.approx(
        wood_of(shop.design).modulus * material("wych elm").rupture_strain, rel=0.2
    )


def weigh(client: Client, rows: list[tuple[int, str]]) -> None:
    for days, mass in rows:
        day = timezone.localdate() - timedelta(days=days)
        content = {"mass": mass, "day": day, "client_id": str(uuid4()), "page_world": "imperial"}
        assert client.post(at("detail"), content).status_code == 302


def test_drying_is_drawn_and_said_when_it_goes_too_fast_or_was_forgotten(
    client: Client, shop: SimpleNamespace
) -> None:
    weigh(client, [(120, "80"), (100, "76"), (70, "73")])
    page = client.get(at("detail")).content.decode()
    assert "Moisture since the first reading" in page
    assert "weighed 70 days ago" in page and "may check" not in page
    weigh(client, [(68, "67")])
    assert "so fast it may check" in client.get(at("detail")).content.decode()
    weigh(client, [(1, "70")])
    assert "A weighing rose" in client.get(at("detail")).content.decode()


def test_a_meter_alone_gives_a_forecast_and_beside_weighings_sharpens_it(
    client: Client, shop: SimpleNamespace
) -> None:
    def keep(days: int, **figures: str) -> str:
        content = {
            "day": timezone.localdate() - timedelta(days=days),
            "client_id": str(uuid4()),
            "page_world": "imperial",
        } | figures
        answer = client.post(at("detail"), content, follow=True)
        return answer.content.decode()

    def forecast() -> services.Seasoning:
        return services.seasoning(Stave.objects.prefetch_related("weighings").get(), Workshop.get())

    assert "what the scale says, or the meter, or both" in keep(60)
    assert "15.0 %" in keep(60, meter="15") and forecast().forecast.final_mass is None
    alone = forecast().forecast
    assert alone.ready_range[1] - alone.ready_range[0] > 60
    keep(40, mass="82")
    keep(2, mass="80", meter="11.9")
    both = forecast().forecast
    assert both.spread < alone.spread and both.dry_mass == pytest.approx(
        80 * GRAIN * 437.5 / 1.12, rel=0.02
    )
    page = client.get(at("detail")).content.decode()
    assert page.count("crosses: meter") == 1 and "80 oz, meter 11.9 %" in page
    assert "see which day is right" in page  # the stave is said to have come today
    keep(1, meter="6")
    assert "The meter says 6.0 %" in client.get(at("detail")).content.decode()


def photograph(kind: str = "PNG", size: tuple[int, int] = (900, 1200), **more: object) -> bytes:
    written = io.BytesIO()
    Image.new("RGB", size, (150, 110, 70)).save(written, kind, **more)
    return written.getvalue()


def send(client: Client, content: bytes, name: str = "end.jpg", **change: str) -> HttpResponse:
    form = {
        "caption": "The left end",
        "at": "2",
        "day": "2026-01-05",
        "page_world": "imperial",
    } | change
    return client.post(at("photo_keep"), form | {"photo": SimpleUploadedFile(name, content)})


def test_a_photograph_is_read_turned_upright_written_anew_and_shown(
    client: Client, shop: SimpleNamespace
) -> None:
    exif = Image.Exif()
    exif[274], exif[271] = 6, "a camera"  # lying on its side; who made the camera
    assert send(client, photograph("JPEG", (2400, 1200), exif=exif)).status_code == 302
    row = Photo.objects.get()
    assert (row.width, row.height, row.at) == (900, 1800, pytest.approx(2 * INCH))
    large = b"".join(client.get(reverse("rack:photo", args=[row.pk])).streaming_content)
    small = b"".join(client.get(reverse("rack:photo_small", args=[row.pk])).streaming_content)
    assert (
        not Image.open(io.BytesIO(large)).getexif()
        and max(Image.open(io.BytesIO(small)).size) == 480
    )
    page = client.get(at("detail")).content.decode()
    assert 'alt="The left end"' in page and "2 in from the left end" in page
    client.post(reverse("rack:photo_drop", args=[row.pk]))
    assert (
        'alt="The left end"' not in client.get(at("detail")).content.decode()
        and Photo.objects.get().gone
    )
    photo_path(row.name).unlink()
    assert client.get(reverse("rack:photo", args=[row.pk])).status_code == 404


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (
            b"<svg xmlns='http://www.w3.org/2000/svg'><script/></svg>",
            "not a photograph that can be read",
        ),
        (b"", "empty"),
        (photograph("GIF"), "not a photograph that can be read"),
        (photograph("JPEG")[:900], "damaged or was cut short"),
        (photograph(size=(8, 900)), "too small"),
        (photograph("JPEG", size=(9000, 7000)), "60 million pixels"),
        (photograph("PNG", size=(6000, 5000)), "24 million pixels"),
    ],
)
def test_a_file_that_is_no_photograph_is_refused_in_words(
    client: Client, shop: SimpleNamespace, content: bytes, says: str
) -> None:
    answer = send(client, content)
    assert (
        answer.status_code == 422
        and says in answer.content.decode()
        and "The left end" in answer.content.decode()
    )
    assert not Photo.objects.exists() and not list(Path(settings.PHOTOS).glob("*.part"))


def test_photographs_want_a_name_a_place_on_the_stave_and_a_maker(
    client: Client, shop: SimpleNamespace
) -> None:
    assert "lies off the stave" in send(client, photograph(), at="100").content.decode()
    assert send(client, photograph(), caption="").status_code == 422
    assert "has not come yet" in send(client, photograph(), day="2099-01-01").content.decode()
    assert (
        "Choose a photograph first"
        in client.post(at("photo_keep"), {"caption": "x"}).content.decode()
    )
    guest = signed_in(shop.people.guest)
    assert send(guest, photograph()).status_code == 403
    assert Client(HTTP_HOST="127.0.0.1").get(reverse("rack:photo", args=[1])).status_code == 302


def test_a_design_says_that_its_stave_is_wetter_than_it_is_reckoned(
    client: Client, shop: SimpleNamespace
) -> None:
    page = reverse("designs:detail", args=[shop.design.pk])
    assert "is still at" not in client.get(page).content.decode()
    day = timezone.localdate() - timedelta(days=1)
    client.post(
        at("detail"),
        {"day": day, "meter": "16", "client_id": str(uuid4()), "page_world": "imperial"},
    )
    assert "Stave 1 is still at 1" in client.get(page).content.decode()


@pytest.mark.parametrize(
    ("kind", "asked", "spared"),
    [
        (
            "log split",
            ("Sapwood", "Growth ring", "Sliced off"),
            ("Wall of the culm", "Grain drifts"),
        ),
        ("board", ("Grain drifts", "Growth ring"), ("Wall of the culm", "Sapwood")),
        (
            "bamboo culm",
            ("Wall of the culm", "Sliced off"),
            ("Growth ring", "Grain drifts", "Sapwood"),
        ),
        (
            "glass",
            ("Where from",),
            ("Wall of the culm", "Growth ring", "Moisture when it came", "Natural reflex"),
        ),
    ],
)
def test_each_kind_of_stock_has_its_own_questions(
    client: Client,
    shop: SimpleNamespace,
    kind: str,
    asked: tuple[str, ...],
    spared: tuple[str, ...],
) -> None:
    typed = STAVE | {"kind": kind, "wall": "1/4", "notes": "half typed", "length": "seventy"}
    page = client.post(reverse("rack:questions"), typed, **HTMX).content.decode()
    seen, unseen = page.split("<div hidden>")
    assert all(words in seen for words in asked) and all(
        words in unseen and words not in seen for words in spared
    )
    assert (
        'value="1/4"' in page and "half typed" in page and 'value="seventy"' in page
    )  # nothing typed is lost
    assert not Stave.objects.exclude(number=1).exists()
    # what is wrong with a question that is not asked is still said beside it
    wrong = client.post(
        reverse("rack:new"), STAVE | {"kind": "glass", "wall": "thick"}
    ).content.decode()
    assert "could not be read" in wrong.split("<div hidden>")[0]

"""Templates and cutting files read back: the printed and the drawn bow are as long and as wide as
the designed one.
"""

import csv
import re
from io import BytesIO, StringIO
from itertools import pairwise
from types import SimpleNamespace

import ezdxf
import numpy as np
import pytest
from django.test import Client
from django.urls import reverse
from pypdf import PdfReader

from bowyery.units.quantity import INCH
from fellwind.designs.models import Design
from fellwind.designs.services import solution
from fellwind.exports.leaving import EXPORTS
from fellwind.exports.template import CHECK, EDGE, FADE_SHAPES, OVERLAP, template_of, tiles
from fellwind.shop.models import Workshop

POINT = 25.4 / 72


def fetch(client: Client, name: str, pk: int) -> bytes:
    answer = client.get(reverse("designs:export", args=[pk, name]))
    assert answer.status_code == 200
    return answer.content


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_the_printed_template_is_right_to_two_thousandths(
    client: Client, shop: SimpleNamespace, paper: str
) -> None:
    """Every page's outline is read from the PDF, pages are joined at their crosses, and the bow is
    measured.
    """
    Workshop.get()
    Workshop.objects.update(paper=paper)
    found = solution(shop.design)
    shape = template_of(found, "imperial", shop.design.figures.fade_shape)
    pages = PdfReader(BytesIO(fetch(client, "template.pdf", shop.design.pk))).pages
    expected = tiles(shape, paper)
    assert len(pages) == len(expected) >= 6
    reach, width = [], []
    for page, (start, _) in zip(pages, expected, strict=True):
        text = page.get_contents().get_data().decode("latin-1")
        numbers = re.findall(r"(-?[\d.]+) (-?[\d.]+) [ml]\b", text.replace("\n", " "))
        outline = np.array(numbers[: 2 * shape.at.size], float) * POINT
        reach.append((outline[:, 0].min() - EDGE + start, outline[:, 0].max() - EDGE + start))
        width.append(outline[:, 1].max() - outline[:, 1].min())
        assert f"{CHECK:.0f} mm" in page.extract_text()
    low, high = np.array(reach).T
    length = found.layout.overall * 1000
    assert (high - low) == pytest.approx(np.full(len(pages), length), rel=0.002)
    assert np.array(width) == pytest.approx(
        np.full(len(pages), found.layout.width * 1000), rel=0.002
    )
    # two pages share a strip, so that nothing of the bow falls between them
    for (_, end), (start, _) in pairwise(expected):
        assert end - start == pytest.approx(OVERLAP)
    assert "A" in pages[0].extract_text() and "A" in pages[1].extract_text()


def test_the_cutting_file_is_in_millimetres_one_to_one(
    client: Client, shop: SimpleNamespace
) -> None:
    found = solution(shop.design)
    document = ezdxf.read(StringIO(fetch(client, "template.dxf", shop.design.pk).decode()))
    assert document.units == ezdxf.units.MM
    lines = {
        line.dxf.layer: np.array([p[:2] for p in line.get_points()])
        for line in document.modelspace().query("LWPOLYLINE")
    }
    outline, side = lines["OUTLINE"], lines["SIDE"]
    assert np.ptp(outline[:, 0]) == pytest.approx(found.layout.overall * 1000, rel=1e-6)
    assert np.ptp(outline[:, 1]) == pytest.approx(found.layout.width * 1000, rel=1e-3)
    assert np.ptp(side[:, 1]) == pytest.approx(found.layout.handle_depth * 1000, rel=1e-6)
    for mark in found.marks:
        x = (1 if mark.limb == "upper" else -1) * mark.from_centre * 1000
        here = outline[np.abs(outline[:, 0] - x) < 1e-6]
        assert np.ptp(here[:, 1]) == pytest.approx(mark.width * 1000, rel=1e-6)
    assert document.modelspace().query("LINE[layer=='CENTRE']")


def test_the_svg_is_as_large_as_it_says(client: Client, shop: SimpleNamespace) -> None:
    text = fetch(client, "template.svg", shop.design.pk).decode()
    width = float(re.search(r'width="([\d.]+)mm"', text)[1])  # type: ignore[index]
    assert width == pytest.approx(float(re.search(r'viewBox="\S+ 0 ([\d.]+)', text)[1]))  # type: ignore[index]
    outline = re.search(r'id="outline" d="M(.*?)Z"', text)[1]  # type: ignore[index]
    points = np.array([p.split() for p in outline.split("L")], float)
    assert np.ptp(points[:, 0]) == pytest.approx(shop.design.overall * 1000, abs=0.01)
    Design.objects.update(name="<b>Sharp & co</b>")
    assert "<b>" not in fetch(client, "template.svg", shop.design.pk).decode()


def test_the_marks_leave_as_a_table(client: Client, shop: SimpleNamespace) -> None:
    rows = list(csv.DictReader(StringIO(fetch(client, "marks.csv", shop.design.pk).decode())))
    found = solution(shop.design)
    assert len(rows) == len(found.marks)
    for row, mark in zip(rows, found.marks, strict=True):
        assert float(row["thickness_mm"]) == pytest.approx(mark.thickness * 1000, abs=0.005)
        assert float(row["width_in"]) == pytest.approx(mark.width / INCH, abs=1e-4)


def test_a_design_that_cannot_be_has_no_template(client: Client, shop: SimpleNamespace) -> None:
    Design.objects.update(length=40 * INCH)
    for name in EXPORTS:
        assert client.get(reverse("designs:export", args=[shop.design.pk, name])).status_code == 409


def test_fades_are_drawn_in_their_shape(shop: SimpleNamespace) -> None:
    found = solution(shop.design)
    shapes = {name: template_of(found, "metric", name) for name in FADE_SHAPES}
    middle = found.layout.handle / 2 * 1000 + found.layout.fade * 500
    widths = {name: float(np.interp(middle, s.at, s.width)) for name, s in shapes.items()}
    root, grip = found.marks[0].width * 1000, 700 * found.layout.width
    assert widths["straight"] == pytest.approx((root + grip) / 2, rel=1e-6)
    assert widths["smooth"] == pytest.approx(widths["straight"], rel=1e-6)
    assert widths["hollow"] > widths["straight"]  # stays wide longer, towards the grip
    for shape in shapes.values():
        assert np.all(np.diff(shape.at) > 0)
        assert shape.reach == pytest.approx(shapes["straight"].reach)

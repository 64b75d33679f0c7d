"""Layout families: shown, begun from, and solved in every form."""

from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse

from bowyery.bow.families import LAYOUTS
from bowyery.units.quantity import LENGTH, POUND_FORCE, Units
from bowyery.wood.materials import fibre
from fellwind.designs import answers, services, words
from fellwind.designs.forms import DesignForm
from fellwind.designs.models import Design
from tests.web.forms import pdf_words


def test_layout_families_are_shown_and_start_a_design(
    client: Client, shop: SimpleNamespace
) -> None:
    page = client.get(reverse("designs:layouts")).content.decode()
    for name in LAYOUTS:
        assert name.capitalize() in page
        form = client.get(reverse("designs:new"), {"layout": name}).content.decode()
        layout = LAYOUTS[name](shop.archer.draw)
        assert f'name="width" value="{LENGTH.bare(layout.width, Units())}"' in form
        start = DesignForm(
            shown=Units(), initial={"material": "black locust"} | words.layout_initial(layout)
        )
        content = {f.name: "" if f.value() is None else str(f.value()) for f in start}
        content |= {
            "name": name,
            "archer": str(shop.archer.pk),
            "weight": "30",
            "marked_in": "imperial",
            "page_world": "imperial",
        }
        if name in list(LAYOUTS)[::5]:  # what is only tried is solved anew: a few are enough
            tried = client.post(reverse("designs:preview_new"), content | {"name": ""})
            said = tried.content.decode()
            assert "it pulls" in said and "This field is required" not in said, name
        answer = client.post(reverse("designs:new"), content)
        assert answer.status_code == 302, (name, answer.content.decode()[-2500:])
        if name in list(LAYOUTS)[::3]:
            assert client.get(answer["Location"]).status_code == 200
    glass = client.get(
        reverse("designs:new"), {"layout": "glass-faced, one piece or take-down"}
    ).content.decode()
    assert '<option value="unidirectional glass" selected>' in glass
    tied_bow = Design.objects.get(name="bamboo with a back-bow")
    assert services.solution(tied_bow).weight == pytest.approx(30 * POUND_FORCE, rel=0.01)
    assert (
        "22.0 lb before stringing"
        in pdf_words(client.get(reverse("designs:marking_pdf", args=[tied_bow.pk])).content)[0]
    )
    rows = answers.cables(services.solution(tied_bow), fibre("linen"))
    shares = [row.curve.share[0] for row in rows]
    assert shares == sorted(shares) and shares[-1] > shares[0] + 0.01
    assert rows[0].slack > 0 and rows[0].inner > rows[-1].inner, "a loose cable spares it less"
    table = client.get(reverse("designs:cables", args=[tied_bow.pk])).content.decode()
    assert (
        table.count("as designed") == 1
        and f"{shares[0] * 100:.0f} %" in table
        and "whips along the limb" in table
    )
    assert not answers.cables(services.solution(shop.design), fibre("linen"))
    mid = Design.objects.get(name="widest at mid-limb")
    marks = services.solution(mid).marks
    assert max(m.width for m in marks) > 1.2 * marks[0].width
    assert client.get(reverse("designs:new"), {"layout": "square"}).status_code == 200

"""A season of changes in any order: every figure ends as it was typed, or is shown as changed."""

import itertools
from types import SimpleNamespace

import pytest
from django.test import Client
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bowyery.bow import bowfile
from fellwind.builds.models import Build
from fellwind.designs import services
from fellwind.designs.models import Design
from tests.web.forms import design_form, design_form_of, marks_form
from tests.web.test_never_lost import bring, longbow

SERIAL = itertools.count(1)
TYPED = {
    "name": ["Heather", "Long one", "Bow of the fell"],
    "notes": ["dry it first", ""],
    "weight": ["38", "44.5", "51"],
    "draw": ["26", "27 1/2"],
    "length": ["66", "68 1/4", "40"],
    "width": ["1 3/4", "1 7/8"],
    "material": ["white ash", "wych elm"],
    "brace_height": ["6", "6 1/4"],
    "handle": ["4", "4 1/2"],
    "family": ["circular", "elliptical"],
    "arrow": ["400", "450"],
    "reflex": ["0", "1/2"],
}
CHANGES = st.sampled_from([(name, value) for name, values in TYPED.items() for value in values])
STEPS = st.one_of(
    st.tuples(st.just("change"), CHANGES),
    st.tuples(st.just("solve anew"), CHANGES),
    st.tuples(st.just("stale"), CHANGES),
    st.tuples(st.just("mark"), st.sampled_from(["0.42", "0.45"])),
    st.tuples(st.just("undo"), st.none()),
    st.tuples(st.just("build"), st.none()),
    st.tuples(st.just("take over"), st.none()),
)


class Season:
    """A design in the hands of two tablets, and what each page showed of it last."""

    def __init__(self, client: Client, design: Design) -> None:
        self.client, self.key = client, design.pk
        self.edit = reverse("designs:edit", args=[design.pk])
        self.old = self.shown()
        self.before: dict[str, str] | None = None

    @property
    def design(self) -> Design:
        return Design.objects.get(pk=self.key)

    def shown(self) -> dict[str, str]:
        return design_form(self.design)

    def differs(self, was: dict[str, str]) -> set[str]:
        now = self.shown()
        return {name for name in now if now[name] != was.get(name)} - {"made_from"}

    def change(self, name: str, value: str, solve: bool = False) -> None:
        was, marked = self.shown(), self.design.bow_file
        sent = was | {name: value} | ({"solve": "1"} if solve else {})
        answer = self.client.post(self.edit, sent)
        if answer.status_code == 422:
            form = answer.context["form"]
            assert form.errors and form[name].value() == value  # nothing typed is lost
            assert not self.differs(was) and self.design.bow_file == marked
            return
        assert answer.status_code == 302
        others = self.differs(was) - {name}
        assert not others, (name, value, others)
        self.before = was
        if marked and not solve:
            assert self.design.bow_file  # its marks stand, whatever was asked of it
            old, new = bowfile.loads(marked), bowfile.loads(self.design.bow_file)
            assert new.lower.thickness == pytest.approx(old.lower.thickness)

    def stale(self, name: str, value: str) -> None:
        """Another tablet sends what it was shown before."""
        was = self.shown()
        answer = self.client.post(self.edit, self.old | {name: value})
        if self.old["made_from"] == was["made_from"]:
            return
        assert answer.status_code == 422 and not self.differs(was)

    def mark(self, value: str) -> None:
        was = self.shown()
        if services.try_solution(self.design)[0] is None:
            return
        where = reverse("designs:marks", args=[self.key])
        kept = self.client.post(where, marks_form(self.design, lower_thickness_2=value))
        assert kept.status_code in (302, 422) and not self.differs(was)

    def build(self) -> None:
        number = 100 + next(SERIAL)
        Build.objects.create(number=number, name="One more", design=self.design)

    def undo(self) -> None:
        """Type what stood there before."""
        if self.before is None:
            return
        was, self.before = self.before, None
        fresh = {name: self.shown()[name] for name in ("made_from", "client_id") if name in was}
        answer = self.client.post(self.edit, was | fresh)
        if answer.status_code == 302:
            assert not self.differs(was)


@settings(
    max_examples=12, deadline=None, derandomize=True,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)  # fmt: skip
@given(imported=st.booleans(), steps=st.lists(STEPS, min_size=4, max_size=9))
def test_a_season_of_edits_ends_with_every_figure_as_typed_or_shown_as_changed(
    client: Client, shop: SimpleNamespace, imported: bool, steps: list[tuple[str, object]]
) -> None:
    if imported:
        assert bring(client, longbow(), archer=shop.archer.pk).status_code == 302
        design = Design.objects.filter(now=None).latest("pk")
    else:
        design = services.variant(shop.design)
    season, begun = Season(client, design), dict[int, dict[str, str]]()
    for what, given_ in steps:
        for build in Build.objects.filter(number__gt=100, finished=None):
            begun[build.pk] = design_form(build.design)
        if what == "change":
            season.change(*given_)  # type: ignore[misc]
        elif what == "solve anew":
            season.change(*given_, solve=True)  # type: ignore[misc]
        elif what == "stale":
            season.stale(*given_)  # type: ignore[misc]
        elif what == "mark":
            season.mark(str(given_))
        elif what == "undo":
            season.undo()
        elif what == "build":
            season.build()
        else:
            for build in Build.objects.filter(design__now=season.key):
                client.post(reverse("builds:take_over", args=[build.number]))
                begun.pop(build.pk, None)
        for pk, figures in begun.items():  # what is being built stays as it was begun
            now = design_form(Build.objects.get(pk=pk).design)
            assert {n for n in now if now[n] != figures[n]} <= {"name", "notes", "made_from"}
    again = design_form_of(client.get(season.edit).context["form"])
    assert {n: v for n, v in again.items() if n != "made_from"} == {
        n: v for n, v in season.shown().items() if n != "made_from"
    }
    Build.objects.filter(number__gt=100).update(finished="2026-11-30T10:00Z")

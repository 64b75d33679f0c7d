"""What the pages of builds show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from uuid import UUID, uuid4

from django.db.models import Q
from django.http import QueryDict
from django.utils import timezone

from bowyery.design.solution import Solution
from bowyery.making.stages import STAGES
from bowyery.units.quantity import Units
from fellwind.builds import services, stages
from fellwind.builds.bench_forms import CalipersForm, FloorForm, LengthNowForm, SliceForm
from fellwind.builds.benches import (
    LayoutBench,
    Profile,
    RoughBench,
    WoodBench,
    layout_bench,
    profile_of,
    rough_bench,
    wood_bench,
)
from fellwind.builds.finishing import COATS, FinishBench, FinishForm, finish_bench
from fellwind.builds.forms import BuildForm, LineForm, ProofForm, WaitForm
from fellwind.builds.heating import HeatBench, HeatForm, StayedForm, heat_bench
from fellwind.builds.laminating import StackBench, stack_bench
from fellwind.builds.models import BenchPhoto, Build, Entry
from fellwind.builds.photos import BenchPhotoForm
from fellwind.builds.proof import Proof, proof, proof_curve, says
from fellwind.builds.waits import Planned, finish, plan
from fellwind.designs import pictures
from fellwind.designs import services as designs
from fellwind.designs.models import Design
from fellwind.drawing.curve import curve_picture
from fellwind.drawing.ruler import ruler_picture
from fellwind.kit.paging import Paged, Ways, by_weight, paged


@dataclass(frozen=True)
class Head:
    """What the head of every page of a build shows.

    Attributes:
        found, trouble: its design solved, or why it is not.
        stage: of this page; is_current: the build stands at it.
        last_line: as last written, to write it again.
    """

    build: Build
    found: Solution | None
    trouble: str
    stage: str
    is_current: bool
    progress: str
    minutes: int
    caution: str
    next_verb: str
    last_line: str


def head(build: Build, stage: str) -> Head:
    """The head of a build's page."""
    found, trouble = designs.try_solution(build.design)
    last = build.entries.filter(kind="bench").order_by("-at", "-pk")
    return Head(
        build,
        found,
        trouble,
        stage,
        stage == build.stage and build.finished is None,
        services.build_progress(build, timezone.now(), links=True),
        services.minutes(build),
        STAGES[stage].caution,
        STAGES[stage].passed,
        last.values_list("text", flat=True).first() or "",
    )


@dataclass(frozen=True)
class ListRow:
    """A build in the list."""

    build: Build
    picture: str | None
    progress: str


@dataclass(frozen=True)
class ListPage:
    """A page of builds; whether there is a design to build from."""

    rows: list[ListRow]
    designs: bool
    paged: Paged


ORDERS = {"newest": "-number", "name": "name", "wood": "design__material",
          "weight": "design__weight", "archer": "design__archer__name"}  # fmt: skip
STATES = {"being built": Q(finished=None), "closed": Q(finished__isnull=False)}


def build_list(asked: QueryDict, now: datetime, shown: Units) -> ListPage:
    """The page of builds that was asked for."""
    words = ("name", "stage", "design__name", "design__archer__name")
    ways = Ways(
        ORDERS,
        {"wood": "design__material", "archer": "design__archer__name", "stage": "stage"},
        {"weight": by_weight("design__weight", shown), "state": STATES},
    )
    found = paged(services.builds(), asked, words, "number", ways)
    kept = services.outlines(found.rows)
    rows = [ListRow(b, kept[b.pk], services.build_progress(b, now)) for b in found.rows]
    return ListPage(rows, Design.objects.exists(), found)


@dataclass(frozen=True)
class StartPage:
    """The form of a new build."""

    form: BuildForm


@dataclass(frozen=True)
class Ticked:
    """An item of a stage's list, and whether it is seen to."""

    item: stages.Item
    done: bool


@dataclass(frozen=True)
class StageForms:
    """Forms of the first benches, fresh or as they were refused."""

    slice: SliceForm | None = None
    length: LengthNowForm | None = None
    calipers: CalipersForm | None = None
    floor: FloorForm | None = None
    heat: HeatForm | None = None
    stayed: StayedForm | None = None
    finish: FinishForm | None = None


@dataclass(frozen=True)
class StagePage(Head):
    """One stage of a build: its list, its waits, its ruler; at the last its proof."""

    items: Sequence[Ticked] = ()
    wait_form: WaitForm | None = None
    ruler: str = ""
    proof: Proof | None = None
    form: ProofForm | None = None
    curve: str = ""
    plan: Sequence[Planned] = ()
    finish: Planned | None = None
    wood: WoodBench | None = None
    layout: LayoutBench | None = None
    rough: RoughBench | None = None
    stack: StackBench | None = None
    heat: HeatBench | None = None
    finishing: FinishBench | None = None
    loses: float = 0.0
    coats: Sequence[str] = ()
    profile: Profile | None = None
    forms: StageForms = field(default_factory=StageForms)


def with_bench(
    page: StagePage, shown: Units, forms: StageForms, asked: QueryDict | None = None
) -> StagePage:
    """A stage with the bench that belongs to it; forms that were refused stand in it."""
    build = page.build
    if page.stage == "wood":
        forms = replace(forms, slice=forms.slice or SliceForm(shown=shown))
        return replace(page, wood=wood_bench(build, shown), forms=forms)
    if page.stage == "lay-out":
        forms = replace(forms, length=forms.length or LengthNowForm(shown=shown))
        return replace(page, layout=layout_bench(build), forms=forms)
    found = page.found
    if page.stage == "back" and found is not None:
        heat = heat_bench(build, found, shown, forms.heat, forms.stayed)
        if found.layered:
            page = replace(page, stack=stack_bench(found, shown, asked))
        return replace(page, heat=heat, forms=forms, profile=profile_of(build, found))
    if page.stage == "rough" and found is not None:
        seen = rough_bench(build, found, shown)
        calipers = forms.calipers or CalipersForm(shown=shown, rows=seen.rows)
        floor = forms.floor or FloorForm(shown=shown)
        return replace(page, rough=seen, forms=replace(forms, calipers=calipers, floor=floor))
    if page.stage == "finish" and found is not None:
        end = finish_bench(build, found, shown, forms.finish)
        loses = end.takes.share * end.weight if end.takes else 0.0
        return replace(page, finishing=end, loses=loses, coats=COATS, forms=forms)
    return page


def finish_trouble(build: Build, what: str, form: FinishForm, shown: Units) -> str:
    """Why an act of the finish cannot be done so; nothing where it can."""
    found, trouble = designs.try_solution(build.design)
    if found is None:
        return trouble
    seen = finish_bench(build, found, shown, form)
    if what == "pass":
        return seen.trouble
    return seen.edge_trouble if what in ("edges", "sanded") else ""


def stage_page(
    build: Build,
    stage: str,
    shown: Units,
    form: ProofForm | None = None,
    forms: StageForms | None = None,
    asked: QueryDict | None = None,
) -> StagePage:
    """A stage of a build, with a proof or a bench's form that was refused, or fresh ones."""
    top = head(build, stage)
    done = set(build.entries.filter(kind="tick").values_list("text", flat=True))
    listed = stages.items(stage, build.design, top.found, shown)
    items = tuple(Ticked(item, item.key in done) for item in listed)
    ruler = ruler_picture(pictures.ruler_data(top.found), shown) if top.found else ""
    planned = plan(build)
    whole = finish(planned) if len(planned) > 1 else None
    page = StagePage(
        **vars(top), items=items, wait_form=WaitForm(build=build), plan=planned, finish=whole
    )
    if stage != "proof":
        return with_bench(replace(page, ruler=ruler), shown, forms or StageForms(), asked)
    proved = proof(build, top.found)
    if proved is not None and top.found is not None:
        proved = replace(proved, says=tuple(says(build, top.found, proved, shown)))
    curve = ""
    if proved is not None and top.found is not None:
        curve = curve_picture(proof_curve(build, top.found, proved), shown)
    form = form or ProofForm(shown=shown, initial={"client_id": uuid4()})
    return replace(page, proof=proved, form=form, curve=curve)


@dataclass(frozen=True)
class LogRow:
    """An entry with its words; a tick is kept by its key."""

    entry: Entry
    words: str


@dataclass(frozen=True)
class LogPage(Head):
    """Everything written about a build, in order."""

    entries: Sequence[LogRow] = ()


def log_page(build: Build, shown: Units) -> LogPage:
    """The log of a build."""
    top = head(build, build.stage)
    words = stages.all_words(build.design, top.found, shown)
    rows = tuple(
        LogRow(e, words.get(e.text, e.text) if e.kind == "tick" else e.text)
        for e in services.log(build)
    )
    return LogPage(**vars(top), entries=rows)


@dataclass(frozen=True)
class PhotosPage(Head):
    """The form of a photograph, and those that were taken."""

    form: BenchPhotoForm | None = None
    photos: Sequence[BenchPhoto] = ()


def photos_page(build: Build, form: BenchPhotoForm) -> PhotosPage:
    """The photographs of a build, the newest first."""
    rows = BenchPhoto.objects.filter(entry__build=build, gone=False).select_related("entry")
    top = head(build, build.stage)
    return PhotosPage(**vars(top), form=form, photos=list(rows.order_by("-entry__at", "-pk")))


@dataclass(frozen=True)
class ReadBack:
    """A pencil line said back before it is kept, or what stands in its way."""

    build: Build | None = None
    trouble: str = ""
    line: str = ""
    words: Sequence[str] = ()
    page_world: str = ""
    client_id: UUID | None = None
    corrects: Entry | None = None


@dataclass(frozen=True)
class WaitPage:
    """A wait that was refused."""

    form: WaitForm
    build: Build


@dataclass(frozen=True)
class CorrectPage:
    """An entry and what it should say."""

    form: LineForm
    build: Build
    wrong: Entry

"""Views of the shop: settings, archers, gear, and the materials' list."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from django.contrib import messages
from django.db.models import QuerySet
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from bowyery.making.rests import Hours, Rest
from bowyery.wood import materials
from bowyery.wood.materials import Fibre, Material
from fellwind.kit import archive
from fellwind.kit.context import units_of
from fellwind.kit.pages import refused, show
from fellwind.kit.permissions import ROLES, Role, for_writers
from fellwind.kit.survive import bad_rows, remove
from fellwind.people.models import Person
from fellwind.shop import services
from fellwind.shop.forms import (
    ArcherForm,
    GearForm,
    OwnMaterialForm,
    OwnRestForm,
    ToolForm,
    WorkshopForm,
)
from fellwind.shop.models import AIR_WORDS, Archer, Gear, OwnMaterial, OwnRest, Tool, Workshop


@dataclass(frozen=True)
class ShopPage:
    """The shop's settings, people, archers and gear."""

    workshop: Workshop
    form: WorkshopForm
    people: QuerySet[Person]
    roles: Sequence[Role]
    archers: QuerySet[Archer]
    gear: QuerySet[Gear]
    tools: QuerySet[Tool]
    balance: float
    woods: int


@dataclass(frozen=True)
class MaterialsPage:
    """Book values with their sources."""

    woods: list[Material]
    backings: list[Material]
    fibres: list[Fibre]
    own: QuerySet[OwnMaterial]


@dataclass(frozen=True)
class ArcherPage:
    """An archer, and their draw on every draw ruler."""

    form: ArcherForm
    archer: Archer
    draws: list[tuple[str, float]]


@dataclass(frozen=True)
class GearPage:
    """A piece of gear."""

    form: GearForm
    gear: Gear


@dataclass(frozen=True)
class RestRow:
    """A kind of rest: how long it takes in this air, how that goes, and the shop's own row."""

    rest: Rest
    hours: Hours
    air: str
    own: OwnRest | None


@dataclass(frozen=True)
class RestsPage:
    """How long things rest in the shop's air."""

    workshop: Workshop
    rows: Sequence[RestRow]


@dataclass(frozen=True)
class RestPage:
    """A kind of rest of the shop's own."""

    form: OwnRestForm
    rest: OwnRest


@dataclass(frozen=True)
class ToolPage:
    """A tool of the shop's own."""

    form: ToolForm
    tool: Tool


@dataclass(frozen=True)
class MaterialPage:
    """A material of the shop's own."""

    form: OwnMaterialForm
    own: OwnMaterial


def shop(request: HttpRequest) -> HttpResponse:
    """The shop's settings, people, archers and gear."""
    workshop, shown = Workshop.get(), units_of(request)
    form = WorkshopForm(
        request.POST or None,
        shown=shown,
        initial=WorkshopForm.initial_of(workshop),
        row=workshop,
    )
    if request.method == "POST" and form.is_valid():
        form.save(workshop)
        messages.success(request, "The shop's settings are kept.")
        return redirect("shop:shop")
    page = ShopPage(
        workshop,
        form,
        Person.objects.order_by("username"),
        tuple(ROLES.values()),
        Archer.objects.all(),
        Gear.objects.all(),
        Tool.objects.all(),
        services.shop_balance(workshop),
        len(materials.woods()),
    )
    return show(request, "shop/shop.html", page, refused(form.errors))


@require_safe
def material_list(request: HttpRequest) -> HttpResponse:
    """Book values of woods, backings and string fibres, with their sources."""
    page = MaterialsPage(
        sorted(materials.woods().values(), key=lambda m: m.name),
        sorted(materials.backings().values(), key=lambda m: m.name),
        sorted(materials.fibres().values(), key=lambda m: m.name),
        OwnMaterial.objects.all(),
    )
    return show(request, "shop/materials.html", page)


def archer_edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add or change an archer."""
    archer = get_object_or_404(Archer, pk=pk) if pk else Archer()
    initial = ArcherForm.initial_of(archer) if pk else {}
    form = ArcherForm(request.POST or None, shown=units_of(request), initial=initial, row=archer)
    if request.method == "POST" and form.is_valid():
        form.save(archer)
        messages.success(request, f"{archer.name} is kept.")
        return redirect("shop:shop")
    page = ArcherPage(form, archer, services.archer_draws(archer) if pk else [])
    return show(request, "shop/archer.html", page, refused(form.errors))


@for_writers
def material_edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add a material of the shop's own, or change its figures."""
    own = get_object_or_404(OwnMaterial, pk=pk) if pk else OwnMaterial()
    initial = OwnMaterialForm.initial_of(own) if pk else {}
    form = OwnMaterialForm(request.POST or None, shown=units_of(request), initial=initial, own=own)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, f"{own.name.capitalize()} is kept.")
        return redirect("shop:materials")
    return show(request, "shop/material.html", MaterialPage(form, own), refused(form.errors))


@require_safe
def rest_list(request: HttpRequest) -> HttpResponse:
    """How long things rest in the shop's air."""
    workshop, own = Workshop.get(), {row.name: row for row in OwnRest.objects.all()}
    rows = [
        RestRow(rest, services.hours_here(rest, workshop), AIR_WORDS[rest.air], own.get(name))
        for name, rest in services.rest_table().items()
    ]
    return show(request, "shop/rests.html", RestsPage(workshop, rows))


@for_writers
def rest_edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add a kind of rest, or change one; one of the book's begins with its figures."""
    row = get_object_or_404(OwnRest, pk=pk) if pk else OwnRest()
    begun = services.rest_table().get(request.GET.get("of", ""))
    initial = OwnRestForm.initial_of(row if pk or begun is None else begun)
    form = OwnRestForm(request.POST or None, shown=units_of(request), initial=initial, row=row)
    if request.method == "POST" and form.is_valid():
        form.save(row)
        messages.success(request, f"“{row.name}” is kept.")
        return redirect("shop:rests")
    return show(request, "shop/rest.html", RestPage(form, row), refused(form.errors))


@for_writers
def tool_edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add or change a tool of the shop's own."""
    tool = get_object_or_404(Tool, pk=pk) if pk else Tool()
    initial = ToolForm.initial_of(tool) if pk else {}
    form = ToolForm(request.POST or None, shown=units_of(request), initial=initial, row=tool)
    if request.method == "POST" and form.is_valid():
        form.save(tool)
        messages.success(request, f"The {tool.name} is kept.")
        return redirect("shop:shop")
    return show(request, "shop/tool.html", ToolPage(form, tool), refused(form.errors))


@for_writers
def gear_edit(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add or change a piece of gear."""
    gear = get_object_or_404(Gear, pk=pk) if pk else Gear()
    initial = GearForm.initial_of(gear) if pk else {}
    form = GearForm(request.POST or None, shown=units_of(request), initial=initial, row=gear)
    if request.method == "POST" and form.is_valid():
        form.save(gear)
        messages.success(request, f"{gear.name} is kept.")
        return redirect("shop:shop")
    return show(request, "shop/gear.html", GearPage(form, gear), refused(form.errors))


@require_safe
@for_writers
def export(request: HttpRequest) -> FileResponse:
    """Everything the shop owns as one open ZIP."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "shop.zip"
        archive.write(path)
        file = path.open("rb")  # stays readable until the answer closes it
    name = f"fellwind-shop-{timezone.localdate():%Y-%m-%d}.zip"
    return FileResponse(file, as_attachment=True, filename=name)


@require_POST
def remove_row(request: HttpRequest) -> HttpResponse:
    """Remove a row that cannot be so, with all that hangs on it; no other is removed here."""
    asked = (request.POST.get("label"), request.POST.get("key"))
    row = next((one for one in bad_rows() if (one.label, one.key) == asked), None)
    if row is None:
        messages.info(request, "That is not among what cannot be shown.")
    else:
        remove(row)
        messages.success(request, f"{row.words} is removed, with all that hung on it.")
    return redirect("today:today")

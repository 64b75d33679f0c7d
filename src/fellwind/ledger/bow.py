"""A bow's own page: what was wanted and what came, its story, its papers, its public link."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from django import forms
from django.db.models import Sum
from django.http import Http404
from django.urls import reverse
from django.utils import timezone

from bowyery.errors import BowyeryError
from bowyery.making.stages import NAMES as STAGES
from bowyery.record.bill import Bill, bill, read_parts, read_price
from bowyery.units.quantity import METRIC, Units
from fellwind.builds.card import rows_for
from fellwind.builds.models import BenchPhoto, Build, Entry
from fellwind.builds.ports import BOW_PAGE, CARD_ROWS
from fellwind.builds.proof import Proof, proof, proof_curve
from fellwind.builds.services import standing_entries
from fellwind.designs.pages import hung
from fellwind.designs.pictures import ruler_data
from fellwind.designs.services import try_solution
from fellwind.drawing.curve import curve_picture
from fellwind.drawing.ruler import ruler_for, ruler_picture
from fellwind.drawing.story import Chapter, story_picture
from fellwind.exports.bow import Label, bill_pdf, care_pdf, label_pdf
from fellwind.kit.measures import minutes_words
from fellwind.kit.versions import VersionedForm
from fellwind.ledger.models import BowBill, PublicLink
from fellwind.people.models import Person
from fellwind.rack.models import Photo
from fellwind.shop.models import Workshop
from fellwind.shop.services import draws_of

Rows = list[tuple[str, str]]
LAW = (
    "Where, when and at what you may shoot, and from what age, is decided by local law: ask the"
    " authority there. A pain in shoulder or elbow is a matter for a physician, not for a heavier"
    " bow."
)


class BillForm(VersionedForm):
    """What an hour costs, and what went into the bow."""

    rate = forms.CharField(max_length=16, label="For an hour")
    money = forms.CharField(max_length=8, required=False, label="Money",
                            help_text="its sign, put behind every sum")  # fmt: skip
    parts = forms.CharField(
        required=False, max_length=4000, widget=forms.Textarea(attrs={"rows": 5}),
        label="Materials", help_text="one a line, its price last: ash stave 40",
    )  # fmt: skip

    def _read(self, name: str, read: Any) -> str:
        text: str = self.cleaned_data[name]
        try:
            read(text)
        except BowyeryError as error:
            raise forms.ValidationError(getattr(error, "reason", str(error))) from None
        return text

    def clean_rate(self) -> str:
        """The rate as it was typed, if it is a price."""
        return self._read("rate", read_price)

    def clean_parts(self) -> str:
        """The materials as they were typed, if each has its price."""
        return self._read("parts", read_parts)


@dataclass(frozen=True)
class CameRow:
    """A figure: what was wanted or foretold, and what came."""

    what: str
    wanted: str
    came: str
    off: str


@dataclass(frozen=True)
class BowPage:
    """A bow as it is shown when it is done, or on its way there.

    Attributes:
        build: the bow; ``proof`` None before it was proved.
        card: what its card says; empty before its proof.
        photos: of the stave it was made from; ``bench_photos`` those taken at the bench.
        strings: as the string room has them.
        form, reckoned: its bill, as far as it was written.
        link: the public one, or None while it is off.
    """

    build: Build
    proof: Proof | None
    trouble: str
    rows: Sequence[CameRow]
    card: Rows
    tree: str
    ruler: str
    curve: str
    story: str
    photos: Sequence[Photo]
    bench_photos: Sequence[BenchPhoto]
    entries: Sequence[Entry]
    strings: Rows
    form: BillForm
    reckoned: Bill | None
    money: str
    link: str | None


def minutes_by_stage(build: Build) -> dict[str, int]:
    """Minutes on the bench by stage, in the order of the stages."""
    spent = dict(
        build.entries.filter(corrected_by=None).values_list("stage").annotate(total=Sum("minutes"))
    )
    return {stage: spent[stage] or 0 for stage in STAGES if stage in spent}


def _chapters(build: Build, entries: Sequence[Entry]) -> list[Chapter]:
    spent = minutes_by_stage(build)
    first: dict[str, str] = {}
    for one in entries:
        first.setdefault(one.stage, f"{timezone.localtime(one.at):%-d %b %Y}")
    return [
        Chapter(stage, minutes, minutes_words(minutes) if minutes else "", first.get(stage, ""))
        for stage, minutes in spent.items()
    ]


def _stands_out(entry: Entry) -> bool:
    """Whether an entry belongs to a bow's story: not that a stage began, which the line tells."""
    if entry.kind == "stage":
        return not entry.text.startswith(("On to ", "Build started"))
    return entry.kind in ("finish", "proof", "string")


def _rows(build: Build, proved: Proof | None, shown: Units) -> list[CameRow]:
    design = build.design
    figures = {k: m.value for k, m in proved.figures.items()} if proved else {}
    rows = []
    weight, brace = figures.get("weight"), figures.get("brace height")
    said = off = ""
    if weight is not None:
        said = shown.fine_weight(weight)
        gone = weight - design.weight
        off = f"{shown.fine_weight(abs(gone))} {'over' if gone >= 0 else 'under'}"
    at = shown.length(design.draw)
    rows.append(CameRow(f"Weight, {at} to the pivot", shown.fine_weight(design.weight), said, off))
    said = "" if brace is None else shown.length(brace)
    rows.append(CameRow("Brace height", shown.length(design.figures.brace_height), said, ""))
    words = {"mass": shown.bulk_mass, "arrow speed": shown.speed, "string follow": shown.length}
    for one in proved.against if proved else ():
        if one.what in words:
            write = words[one.what]
            off = "" if one.held else "outside what was foretold"
            between = f"{write(one.low)} to {write(one.high)}"
            rows.append(CameRow(one.what.capitalize(), between, write(one.measured), off))
    return rows


def _written(build: Build) -> BowBill | None:
    return BowBill.objects.filter(build=build).select_related("changed_by").first()


def _reckoned(build: Build, row: BowBill | None) -> Bill | None:
    if row is None:
        return None
    return bill(minutes_by_stage(build), row.rate, read_parts(row.parts))


def bill_form(build: Build, shown: Units, data: Any = None) -> BillForm:
    """The bill's form, filled with what was written."""
    row = _written(build)
    initial = {"rate": f"{row.rate}", "money": row.money, "parts": row.parts} if row else {}
    return BillForm(data, shown=shown, initial=initial, row=row, auto_id="bill_%s")


def bow_page(build: Build, shown: Units, form: BillForm | None = None) -> BowPage:
    """A bow's page."""
    found, trouble = try_solution(build.design)
    data = ruler_data(found) if found else None
    proved = proof(build, found)
    entries = list(standing_entries(build))
    row = _written(build)
    chapters = _chapters(build, entries)
    link = PublicLink.objects.filter(build=build).first()
    photos = Photo.objects.filter(stave=build.stave, gone=False) if build.stave else ()
    taken = BenchPhoto.objects.filter(entry__build=build, gone=False)
    taken = taken.select_related("entry").order_by("entry__at", "pk")
    curve = curve_picture(proof_curve(build, found, proved), shown) if found and proved else ""
    return BowPage(
        build, proved, trouble, _rows(build, proved, shown),
        rows_for(build, proved, shown) if proved else [],
        str(hung(build.design, found, ruler_for(data), shown)) if found and data else "",
        str(ruler_picture(data, shown)) if data else "",
        str(curve),
        str(story_picture(chapters)) if chapters else "",
        list(photos),
        list(taken),
        [one for one in entries if _stands_out(one)],
        [r for ask in CARD_ROWS for r in ask(build, shown)],
        form or bill_form(build, shown), _reckoned(build, row), row.money if row else "",
        None if link is None else reverse("ledger:open", args=[link.token]),
    )  # fmt: skip


def keep_bill(build: Build, form: BillForm) -> None:
    """Write a bill down as it was typed."""
    row = form.row if isinstance(form.row, BowBill) else BowBill(build=build)
    data = form.cleaned_data
    row.rate, row.money, row.parts = read_price(data["rate"]), data["money"], data["parts"]
    row.save()


def share(build: Build, on: bool, by: Person) -> bool:
    """Switch the public link on or off; whether it is on. A link that was off is a new one."""
    if not on:
        PublicLink.objects.filter(build=build).delete()
        return False
    found, _ = try_solution(build.design)
    if proof(build, found) is None:
        return False
    fresh = {"token": PublicLink.new_token(), "by": by}
    PublicLink.objects.get_or_create(build=build, defaults=fresh)
    return True


@dataclass(frozen=True)
class OpenPage:
    """What the public link shows: no more than the card, in both unit worlds, and for nobody."""

    title: str
    made: str
    rows: Sequence[tuple[str, str, str]]


def open_page(token: str) -> OpenPage:
    """The public page of a token; raises Http404."""
    link = PublicLink.objects.filter(token=token).select_related("build__design").first()
    if link is None:
        raise Http404("There is no such page.")
    build = link.build
    found, _ = try_solution(build.design)
    proved = proof(build, found)
    if proved is None:
        raise Http404("There is no such page.")
    both = [rows_for(build, proved, shown) for shown in (Units(), Units(METRIC))]
    rows = [(what, one, other) for (what, one), (_, other) in zip(*both, strict=True)]
    made = f"made at {Workshop.get().name}, {proved.day:%-d %B %Y}"
    return OpenPage(f"{build.number}  {build.name}", made, rows)


@BOW_PAGE.answered_by
def page_link(build: Build) -> str:
    """Where the code on a card leads: the public page where it is on, else the bow's own."""
    link = PublicLink.objects.filter(build=build).first()
    if link is not None:
        return reverse("ledger:open", args=[link.token])
    return reverse("ledger:bow", args=[build.number])


def _titled(build: Build) -> str:
    return f"{build.number}  {build.name}"


def label_of(build: Build, shown: Units) -> bytes | None:
    """The label for a bow's limb; None before its proof."""
    found, _ = try_solution(build.design)
    proved = proof(build, found)
    if proved is None or found is None:
        return None
    design, figures = build.design, proved.figures
    words, draw = draws_of(design.draw, design.figures.handle_depth)[0]
    weight = shown.fine_weight(figures["weight"].value or 0.0)
    lines = [
        f"{build.number}/{proved.day:%Y} · {weight} at {shown.length(draw)} {words}",
        f"{shown.length(design.length)} nock to nock, brace "
        f"{shown.length(figures['brace height'].value or 0.0)}",
        f"{design.material}, {Workshop.get().name}",
    ]
    track = ruler_data(found).upper
    place = float(track.from_centre[0] + 0.08 * (track.from_centre[-1] - track.from_centre[0]))
    label = Label(_titled(build), lines, "", 0.0)
    narrow = float(np.interp(place + label.long, track.from_centre, track.width))
    where = (
        f"On the belly of the upper limb, from {shown.length(place)} outward of the centre, under"
        f" the last coat. The limb is {shown.length(narrow)} wide where it ends."
    )
    return label_pdf(replace(label, where=where, high=0.8 * narrow), Workshop.get().paper)


def care_rules(build: Build, proved: Proof, shown: Units) -> Rows:
    """What whoever shoots a bow must know, with its own figures."""
    design, figures = build.design, {k: m.value for k, m in proved.figures.items()}
    draws = [
        f"{shown.length(v)} {w}" for w, v in draws_of(design.draw, design.figures.handle_depth)
    ]
    rules = [
        ("Draw", f"Never further than {draws[0]} ({', '.join(draws[1:])}). Whoever draws longer"
                 " needs another bow."),
        ("Before shooting", "Look both limbs over for splinters, cracks and fine lines across the"
                            " belly, and the string from loop to loop. Draw it a few times to half"
                            " before the first arrow, longer in the cold."),
        ("Loosing", "Never let go of a drawn string without an arrow, never hold it at full draw"
                    " to show it, and let nobody stand before or beside the limbs."),
    ]  # fmt: skip
    arrow = figures.get("arrow mass")
    if arrow:
        rules.append(("Arrows", f"It was proved with arrows of {shown.mass(arrow)}; take none that"
                                " are lighter without asking its maker."))  # fmt: skip
    brace = figures.get("brace height")
    if brace:
        rules.append(("Bracing", f"{shown.length(brace)} from the grip to the string; twist the"
                                 " string if it has sunk. Unstring it whenever you rest longer"
                                 " than to fetch your arrows."))  # fmt: skip
    strings = [f"{what}: {said}" for ask in CARD_ROWS for what, said in ask(build, shown)]
    own = f" Its own: {'; '.join(strings)}." if strings else ""
    rules.append(("String", "Wax it when it looks dry, and replace it when a strand has parted or"
                            f" a serving has slipped.{own}"))  # fmt: skip
    kept = "Unstrung, lying or hung level, away from stoves, sun and a shut car."
    if design.stock in ("backed", "laminated"):
        kept += " Heat and wet loosen glue and backing: dry it at once when it got wet."
    else:
        kept += " Wet wood is weak wood: shoot it dry, and oil or wax it anew when water soaks in."
    rules.append(("Keeping", kept))
    follow, seen = proved.follow, ""
    if follow is not None and follow > 0:
        seen = f"Unstrung it followed the string by {shown.length(follow)} when it was new. "
    rules.append(("Stop, and ask", f"{seen}If it follows much more, pulls lighter all at once, "
                                   "bends sharply in one place, ticks or shows a crack: unstring it"
                                   " and shoot no more until its maker has seen it."))  # fmt: skip
    return rules


def care_of(build: Build, shown: Units) -> bytes | None:
    """The care sheet of a bow; None before its proof."""
    found, _ = try_solution(build.design)
    proved = proof(build, found)
    if proved is None:
        return None
    shop = Workshop.get()
    head = f"made for {build.design.archer} at {shop.name}, {proved.day:%-d %B %Y}"
    return care_pdf(_titled(build), head, care_rules(build, proved, shown), LAW, shop.paper)


def bill_of(build: Build) -> bytes | None:
    """The bill of a bow; None before it was written."""
    row = _written(build)
    made = _reckoned(build, row)
    if row is None or made is None:
        return None
    shop, money = Workshop.get(), f" {row.money}" if row.money else ""
    rows = [
        (f"Work, {stage}", minutes_words(spent), f"{comes}{money}")
        for stage, spent, comes in made.hours
    ]
    rows += [(part.what, "", f"{part.price}{money}") for part in made.parts]
    head = f"for {build.design.archer}, from {shop.name}; an hour at {row.rate}{money}"
    total = ("Together", f"{made.total}{money}")
    return bill_pdf(_titled(build), head, rows, total, shop.paper)

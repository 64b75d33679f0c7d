"""The bow card: what stands on it."""

from bowyery.units.quantity import Units
from fellwind.builds.models import Build
from fellwind.builds.ports import CARD_ROWS
from fellwind.builds.proof import Proof, proof
from fellwind.designs.services import try_solution
from fellwind.exports.card import Card, card_pdf
from fellwind.shop.models import Workshop
from fellwind.shop.services import draws_of

Rows = list[tuple[str, str]]


def rows_for(build: Build, proved: Proof, shown: Units) -> Rows:
    """The card's lines: what, and its figure."""
    design = build.design
    figures = {kind: m.value or 0.0 for kind, m in proved.figures.items()}
    draws = [
        f"{shown.length(v)} {words}"
        for words, v in draws_of(design.draw, design.figures.handle_depth)
    ]
    rows = [
        ("Weight", f"{shown.fine_weight(figures['weight'])} at {draws[0]}"),
        ("On other rulers", ", ".join(draws[1:])),
        ("Wood", design.material),
        ("Length, nock to nock", shown.length(design.length)),
        ("Brace height", shown.length(figures["brace height"])),
        ("Mass", shown.bulk_mass(figures["mass"])),
    ]
    if "string follow" in figures:
        rows.append(("String follow", shown.length(figures["string follow"])))
    if "arrow speed" in figures:
        arrow = shown.mass(figures["arrow mass"])
        rows.append(("Arrow speed", f"{shown.speed(figures['arrow speed'])}, arrow of {arrow}"))
    if proved.efficiency is not None:
        rows.append(("Efficiency", f"{proved.efficiency * 100:.0f} %"))
    return rows + [row for ask in CARD_ROWS for row in ask(build, shown)]


def bow_card(build: Build, shown: Units, link: str) -> bytes | None:
    """The card of a proved bow as a PDF; None before its proof."""
    found, _ = try_solution(build.design)
    proved = proof(build, found)
    if proved is None or found is None:
        return None
    workshop = Workshop.get()
    made = f"made for {build.design.archer} at {workshop.name}, {proved.day:%-d %B %Y}"
    rows = rows_for(build, proved, shown)
    return card_pdf(Card(f"{build.number}  {build.name}", made, rows, link), workshop.paper)

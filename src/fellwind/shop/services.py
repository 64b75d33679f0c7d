"""What the shop knows of itself: its air, and what its wood comes to in it."""

from typing import cast

from bowyery.making.rests import Air, Hours, Rest, hours, rests
from bowyery.units.draw_ruler import DRAW_RULERS
from bowyery.units.quantity import INCH
from bowyery.wood.seasoning import balance_moisture
from fellwind.shop import book
from fellwind.shop.book import Shelf
from fellwind.shop.models import Archer, OwnRest, Workshop


def rest_table() -> dict[str, Rest]:
    """How long things rest, by name: the book's, and the shop's own in their place."""
    own = {
        row.name: Rest(
            row.name, row.what, row.low, row.usual, row.high, cast(Air, row.air), row.note
        )
        for row in OwnRest.objects.all()
    }
    return dict(sorted((rests() | own).items()))


def hours_here(rest: Rest, workshop: Workshop) -> Hours:
    """How long a rest takes in the shop's air."""
    return hours(rest, workshop.air_celsius, workshop.air_humidity)


USUAL_HANDLE_DEPTH = 1.75 * INCH  # of a bow nobody has designed yet (m)


def shop_balance(workshop: Workshop) -> float:
    """Moisture that wood comes to in the shop's air, as a fraction."""
    return balance_moisture(workshop.air_celsius, workshop.air_humidity)


def draws_of(draw: float, handle_depth: float) -> list[tuple[str, float]]:
    """A draw to the pivot on every draw ruler: what each is called, and the figure (m)."""
    return [(one.short, one.from_pivot(draw, handle_depth)) for one in DRAW_RULERS.values()]


def archer_draws(archer: Archer) -> list[tuple[str, float]]:
    """An archer's draw on every ruler, for a handle as deep as usual."""
    depth = USUAL_HANDLE_DEPTH
    return [(one.words, one.from_pivot(archer.draw, depth)) for one in DRAW_RULERS.values()]


NO_WOOD = ("", "choose one")


def material_choices(shelf: Shelf | None = None) -> list[tuple[str, list[tuple[str, str]]]]:
    """What a limb can be made of, in groups, for a field."""
    shelf = shelf or book.shelf()
    rest = shelf.backings.values()
    return [
        ("Woods", [(name, name) for name in sorted(shelf.woods)]),
        ("Bamboo", [(m.name, m.name) for m in rest if m.kind == "bamboo"]),
        ("Tubes and rods", [(m.name, m.name) for m in rest if m.kind in ("glass", "plastic")]),
    ]

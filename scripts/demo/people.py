"""The people of the demo workshop, and the room's screens."""

from fellwind.people.models import Person
from scripts.demo.moment import DemoShop

NAMES = {"maren": Person.MAKER, "ole": Person.HELPER, "visitor": Person.GUEST}


def load(shop: DemoShop) -> None:
    """A maker, a helper and a guest, all made up."""
    for name, role in NAMES.items():
        Person.objects.create_user(name, role=role)


def maker() -> Person:
    """Whoever wrote what the demo has written."""
    return Person.objects.filter(role=Person.MAKER).order_by("pk")[0]

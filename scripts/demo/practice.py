"""The demo's practice: three lessons done, a stave broken, and a lesson begun."""

from __future__ import annotations

from datetime import timedelta

from bowyery.practice.lessons import BY_KEY
from bowyery.practice.players import Player, by_advice
from bowyery.practice.session import Act, begin
from bowyery.practice.worlds import Setup
from bowyery.units.quantity import Units
from fellwind.practice.models import Done, Session
from fellwind.practice.services import new_session
from scripts.demo.moment import DemoShop
from scripts.demo.people import maker


def load(demo: DemoShop) -> None:
    """Sessions of the demo's maker."""
    day = 10
    for setup, acts in (
        (BY_KEY["stiff-place"].setup, _stiff_place()),
        (BY_KEY["wait"].setup, _wait()),
        (BY_KEY["limbs"].setup, by_advice(BY_KEY["limbs"].setup)),
        (BROKEN, _broken()),
        (BY_KEY["hinge"].setup, _begun()),
    ):
        session = new_session(maker(), setup)
        at = demo.ago(day, 17)
        day -= 2
        Done.objects.bulk_create(
            Done(session=session, number=k + 1, data=act.as_data(), at=at + timedelta(minutes=k))
            for k, act in enumerate(acts)
        )
        Session.objects.filter(pk=session.pk).update(
            begun=at, changed=at + timedelta(minutes=len(acts))
        )


def _stiff_place() -> list[Act]:
    """The straight edge along both limbs, and the stiff place marked."""
    player = Player(begin(BY_KEY["stiff-place"].setup))
    player.do("pull", value=0.46)
    player.do("read", how="weight")
    player.do("read", how="edges")
    player.do("mark", limb="upper", start=0.46, end=0.62, how="stiff")
    player.do("down")
    return player.acts


def _wait() -> list[Act]:
    """Wood off twice, exercised each time before the look."""
    player = Player(begin(BY_KEY["wait"].setup))
    for _ in range(2):
        player.do("scrape", value=12.0, how="scraper")
        player.do("exercise", value=25.0)
        player.do("pull", value=0.34)
        player.do("read", how="weight")
        if not BY_KEY["wait"].measure(player.state, Units()).reached:
            player.do("down")
    return player.acts


def _begun() -> list[Act]:
    """Held drawn, the scale and the straight edge read."""
    player = Player(begin(BY_KEY["hinge"].setup))
    player.do("pull", value=0.5)
    player.do("read", how="weight")
    player.do("read", how="edges")
    return player.acts


BROKEN = Setup("flatbow", "rowan", "hinge", 5)


def _broken() -> list[Act]:
    """Somebody who takes wood all along, hinge and all, looks too soon, and pulls on until it
    goes.
    """
    player = Player(begin(BROKEN))
    for draw in (0.36, 0.42, 0.50):
        _look(player, draw)
        player.do("scrape", value=20.0, how="scraper")
        player.do("exercise", value=8.0)
    player.do("string", how="low")
    _look(player, 0.50)
    player.do("scrape", value=15.0, how="scraper")
    player.do("exercise", value=25.0)
    player.do("string", how="full")
    for draw in (0.50, 0.55, 0.60, 0.65, 0.70):
        if player.state.broke is None:
            _look(player, draw)
    return player.acts


def _look(player: Player, draw: float) -> None:
    """Pull, read the scale and the edge, and let down; as far as it holds."""
    player.do("pull", value=draw)
    if player.state.broke is None:
        player.do("read", how="weight")
        player.do("read", how="edges")
        player.do("down")

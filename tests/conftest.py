"""Fixtures for every test that touches the web: people, an empty shop, a filled one."""

import os
import tempfile
from collections.abc import Iterator
from pathlib import Path
from types import SimpleNamespace

import pytest
from django.test import Client
from hypothesis import HealthCheck, settings

# A browser that a worker has driven leaves its loop behind; Django takes it for one of its own.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "1")


# No test is a stopwatch: a busy machine is not a fault.
settings.register_profile("unhurried", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("unhurried")


@pytest.fixture(scope="session", autouse=True)
def core_results(tmp_path_factory: pytest.TempPathFactory) -> None:
    """Core results of this run, kept apart from any shop's and shared by all tests, their servers
    and both workers.
    """
    from django.conf import settings
    from django.core.cache import caches

    base = tmp_path_factory.getbasetemp()
    folder = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "core-results"
    settings.CACHES["core"]["LOCATION"] = str(folder)
    caches["core"]._dir = str(folder)
    os.environ["FELLWIND_RESULTS"] = str(folder)


@pytest.fixture(scope="session", autouse=True)
def photographs() -> Iterator[None]:
    """Photographs of this run, kept apart from any shop's."""
    from django.conf import settings

    with tempfile.TemporaryDirectory() as folder:
        settings.PHOTOS = Path(folder)
        yield


@pytest.fixture
def people(db: None) -> SimpleNamespace:
    """One person of each role."""
    from fellwind.people.models import Person

    return SimpleNamespace(
        **{
            role: Person.objects.create_user(role, role=role)
            for role in ("maker", "helper", "guest")
        }
    )


@pytest.fixture
def maker(people: SimpleNamespace) -> Client:
    """A browser with the maker signed in."""
    return signed_in(people.maker)


def signed_in(person: object) -> Client:
    """A browser with somebody signed in."""
    client = Client(HTTP_HOST="127.0.0.1")
    client.force_login(person, "django.contrib.auth.backends.ModelBackend")
    return client


@pytest.fixture
def shop(people: SimpleNamespace) -> SimpleNamespace:
    """An archer, a stave, a design and a build at the tiller."""
    from fellwind.builds.models import Build
    from fellwind.designs.models import Design
    from fellwind.rack.models import Stave
    from fellwind.shop.models import Archer

    inch, pound = 0.0254, 4.4482216152605
    archer = Archer.objects.create(
        name="Tuva", draw=27 * inch, draw_text="27 in", weight=42 * pound, weight_text="42 lb"
    )
    stave = Stave.objects.create(
        number=1,
        material="wych elm",
        length=70 * inch,
        length_text="70 in",
        width=2.5 * inch,
        width_text="2 1/2 in",
        depth=2 * inch,
        depth_text="2 in",
    )
    design = Design.objects.create(
        name="Elm flatbow",
        archer=archer,
        stave=stave,
        material="wych elm",
        weight=archer.weight,
        draw=archer.draw,
        fingers=archer.fingers,
        length=67 * inch,
    )
    build = Build.objects.create(
        number=1, name="Elm flatbow", design=design, stave=stave, stage="tiller"
    )
    return SimpleNamespace(archer=archer, stave=stave, design=design, build=build, people=people)

"""What every test of the web layer stands on."""

from types import SimpleNamespace

import pytest
from django.test import Client

from tests.conftest import signed_in


@pytest.fixture
def client(shop: SimpleNamespace) -> Client:
    """A browser with the maker of a shop signed in."""
    return signed_in(shop.people.maker)

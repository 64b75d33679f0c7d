"""The page that leads into the house is true of it."""

import re
from pathlib import Path

from scripts import architecture

ROOT = Path(__file__).parents[2]
TEXT = architecture.PAGE.read_text()


def test_the_list_of_modules_is_that_of_the_code() -> None:
    assert architecture.page(TEXT) == TEXT, "run python scripts/architecture.py"


def test_every_file_that_the_page_names_is_there() -> None:
    table = TEXT[TEXT.index("## To change this") : TEXT.index("**The core**")]
    named = re.findall(r"`((?:bowyery|fellwind|scripts|tests|benchmarks)/[\w/.*-]+)`", table)
    assert len(named) > 50
    gone = [one for one in named if not [*ROOT.glob(one), *ROOT.glob(f"src/{one}")]]
    assert gone == []

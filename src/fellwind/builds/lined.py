"""Forms whose figures are kept as a pencil line: read once, kept once."""

from collections.abc import Iterable, Iterator
from datetime import datetime
from typing import Any
from uuid import uuid4

from django import forms

from bowyery.tiller import pencil
from bowyery.tiller.statements import Statement, Tree
from fellwind.builds import log
from fellwind.builds.models import Build, Entry
from fellwind.kit.measures import MeasuredForm
from fellwind.people.models import Person


class LinedForm(MeasuredForm):
    """A form that writes a pencil line, once for each id.

    Attributes:
        statements: what it says, once it is valid.
    """

    NOTHING = ""  # what is said of a form that says nothing
    BLAMED: str | None = None  # and beside which field

    client_id = forms.UUIDField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args: Any, tree: Tree | None = None, **kwargs: Any) -> None:
        self.tree = tree or Tree()
        self.statements: tuple[Statement, ...] = ()
        kwargs["initial"] = {"client_id": uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, **kwargs)

    def parts(self) -> Iterator[tuple[str | None, str]]:
        """Parts of the line in order, each with the field it comes from."""
        raise NotImplementedError

    def line(self) -> str:
        """It as a pencil line, with units."""
        return "; ".join(text for _, text in self.parts())

    def clean(self) -> dict[str, Any]:
        """Read the line, and put what cannot be read beside its field."""
        data = super().clean()
        data["client_id"] = data.get("client_id") or uuid4()
        self.look()
        parts = [(name, text) for name, text in self.parts() if name not in self.errors]
        self.statements, troubles = pencil.read(parts, self.reads_in, self.tree)
        for name, trouble in troubles:
            self.add_error(name, str(trouble))
        if not parts and self.NOTHING and not self.errors:
            self.add_error(self.BLAMED, self.NOTHING)
        return data

    def look(self) -> None:
        """Look at several fields together."""

    def want(self, name: str, sentence: str) -> None:
        """Ask for a field, unless something is said of it already."""
        if name not in self.errors:
            self.add_error(name, sentence)

    def keep(self, build: Build, by: Person, at: datetime, stage: str = "") -> tuple[Entry, bool]:
        """Keep it as an entry of when it was written; whether it is new."""
        return log.keep(
            build, self.line(), self.statements, self.reads_in, by, self.cleaned_data["client_id"],
            at=at, stage=stage,
        )  # fmt: skip


def each(before: str, given: Iterable[str], joined: bool) -> str:
    """Figures of one field as a part of the line.

    Args:
        before: what stands before each.
        joined: they may follow one another by “and”.
    """
    if joined:
        return f"{before} {' and '.join(given)}"
    return "; ".join(f"{before} {one}" for one in given)

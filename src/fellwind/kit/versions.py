"""Rows that two people may have open at once: every change names the version it was made from."""

from collections.abc import Iterable
from contextvars import ContextVar
from typing import Any

from django import forms
from django.conf import settings
from django.db import models
from django.http import QueryDict
from django.utils import timezone

from fellwind.kit.measures import Measured, MeasuredForm, MeasureField
from fellwind.kit.pages import number_in

WRITER: ContextVar[Any] = ContextVar("writer", default=None)  # whose request writes just now


class Versioned(models.Model):
    """A row that counts its changes, and knows who made the last one and when."""

    version = models.PositiveIntegerField(default=0)
    changed = models.DateTimeField(null=True, blank=True)
    changed_by = models.ForeignKey(
        settings.AUTH_USER_MODEL,
        on_delete=models.SET_NULL,
        null=True,
        blank=True,
        related_name="+",
    )

    class Meta:
        abstract = True

    def save(self, *args: Any, update_fields: Iterable[str] | None = None, **kwargs: Any) -> None:
        """Save as the next version."""
        self.version += 1
        self.changed, self.changed_by = timezone.now(), WRITER.get()
        if update_fields is not None:
            update_fields = {*update_fields, "version", "changed", "changed_by"}
        super().save(*args, update_fields=update_fields, **kwargs)

    @property
    def changed_words(self) -> str:
        """Who changed it last, and when."""
        who = str(self.changed_by) if self.changed_by else "Somebody"
        if self.changed is None:
            return f"{who} changed it"
        at = timezone.localtime(self.changed)
        day = "" if at.date() == timezone.localdate() else f" on {at:%-d %B %Y}"
        return f"{who} changed it{day} at {at:%H:%M}"


def overtaken(row: Versioned, given: QueryDict) -> str:
    """What stands in the way of an act on a row, by one button.

    Args:
        row: as it is now, read in the transaction that will change it.
        given: what was posted; ``made_from`` is the version its page showed.

    Returns:
        A sentence when the row has changed since; nothing when it has not.
    """
    if number_in(given.get("made_from")) == row.version:
        return ""
    return f"{row.changed_words} meanwhile. Look at it as it is now, then do it again if you like."


class VersionedForm(MeasuredForm):
    """A form that changes a row which somebody else may be changing too.

    Made from an older version it is refused: beside each figure stands what it says now, and sent
    once more it counts. ``initial`` are the row's present values, ``row`` is read in the
    transaction that will change it; without one nothing is compared.
    """

    made_from = forms.IntegerField(required=False, widget=forms.HiddenInput)

    def __init__(self, *args: Any, row: Versioned | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.row = row if row is not None and row.pk else None
        if self.row is not None:
            self.initial["made_from"] = self.row.version

    def full_clean(self) -> None:
        """Validate; then see whether the row is still the one that the form was made from."""
        super().full_clean()
        row = self.row
        if not self.is_bound or row is None or self.cleaned_data.get("made_from") == row.version:
            return
        for name, now in self.differing().items():
            if name not in self.errors:
                self.add_error(name, f"Now it says {now}.")
        self.add_error(
            None,
            f"{row.changed_words} while you had it open, so yours is not kept yet. Where the two"
            " differ, what stands now is said beside yours. Send it again to put yours in its"
            " place.",
        )
        given = dict(self.data.items())
        self.data = given | {self.add_prefix("made_from"): str(row.version)}
        self.mark_faults()

    def now(self, name: str) -> object:
        """What a field of the row says now, as the form would show it."""
        return self.fields[name].prepare_value(self.initial.get(name))

    def differing(self) -> dict[str, str]:
        """Fields where the row says something else than the form, with what it says."""
        found = {}
        for name, field in self.fields.items():
            if isinstance(field.widget, forms.HiddenInput):
                continue
            now, mine = _text(self.now(name)), _text(self[name].value())
            if now != mine and not self._same(name, now):
                found[name] = self._words(name, now)
        return found

    def _same(self, name: str, now: str) -> bool:
        """Whether a measure says the same in other words."""
        field, mine = self.fields[name], self.cleaned_data.get(name)
        if not isinstance(field, MeasureField) or not isinstance(mine, Measured) or not now:
            return False
        return abs(field.quantity.read(now, self.shown.world) - mine.value) <= 1e-9 * abs(
            mine.value
        )

    def _words(self, name: str, now: str) -> str:
        field = self.fields[name]
        if isinstance(field, forms.BooleanField):
            return "yes" if now == "True" else "no"
        if isinstance(field, forms.ChoiceField):
            listed = dict(choices_of(field))
            return f"“{listed.get(now, now)}”" if now else "nothing"
        unit = getattr(field, "unit", "")
        if isinstance(field, MeasureField):
            unit = field.quantity.sign(self.shown.world)
        if unit and now:
            return f"{now} {unit}"
        return f"“{now}”" if now else "nothing"


def _text(value: object) -> str:
    return "" if value is None else str(value).replace("\r\n", "\n").strip()


def choices_of(field: forms.ChoiceField) -> list[tuple[str, str]]:
    """A field's choices, those in groups among the others."""
    return list(_flat(list(field.choices)))  # type: ignore[arg-type]  # set by lists


def _flat(choices: Iterable[Any]) -> Iterable[tuple[str, str]]:
    for value, label in choices:
        if isinstance(label, list | tuple):
            yield from _flat(label)
        else:
            yield str(value), str(label)

"""Fields of forms with their unit beside them, and fields that are filled when a form is made."""

from collections.abc import Iterable
from typing import Any

from django import forms
from django.db.models import Model, QuerySet

from bowyery.units.bounds import BOUNDS


class CountField(forms.IntegerField):
    """A whole number within the bounds of what it counts."""

    def __init__(self, what: str, **kwargs: Any) -> None:
        bound = BOUNDS[what]
        super().__init__(min_value=int(bound.low), max_value=int(bound.high), **kwargs)


class WholeField(CountField):
    """The same with its unit beside it."""

    def __init__(self, what: str, *, unit: str, **kwargs: Any) -> None:
        self.unit = unit
        super().__init__(what, **kwargs)


class NumberField(forms.FloatField):
    """A number within the bounds of what it is, with its unit beside it."""

    def __init__(self, what: str, *, unit: str, **kwargs: Any) -> None:
        self.unit = unit
        bound = BOUNDS[what]
        super().__init__(min_value=bound.low, max_value=bound.high, **kwargs)


def choose(form: forms.BaseForm, choices: Iterable[Any], *names: str) -> None:
    """Give fields of a form their choices; raises TypeError for a field that has none."""
    listed = list(choices)
    for name in names:
        field = form.fields[name]
        if not isinstance(field, forms.ChoiceField):
            raise TypeError(f"{name} has no choices.")
        field.choices = listed


def among(form: forms.BaseForm, name: str, rows: QuerySet[Model]) -> None:
    """Let a field of a form choose among rows; raises TypeError for a field that cannot."""
    field = form.fields[name]
    if not isinstance(field, forms.ModelChoiceField):
        raise TypeError(f"{name} does not choose among rows.")
    field.queryset = rows

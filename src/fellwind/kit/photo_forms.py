"""The field that a photograph comes in by."""

from typing import Any
from uuid import uuid4

from django import forms

from fellwind.kit.measures import MeasuredForm
from fellwind.kit.photos import PhotoError, read_photo


class PhotoFileForm(MeasuredForm):
    """A form with a photograph, cleaned to what was read from its file."""

    photo = forms.FileField(
        label="Photograph",
        widget=forms.FileInput(attrs={"accept": "image/jpeg,image/png,image/webp"}),
        help_text="JPEG, PNG or WebP",
        error_messages={"required": "Choose a photograph first."},
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, auto_id="photo_%s", **kwargs)

    def clean_photo(self) -> Any:
        try:
            return read_photo(self.cleaned_data["photo"])
        except PhotoError as error:
            raise forms.ValidationError(str(error)) from None


class CameraForm(PhotoFileForm):
    """A form with a photograph taken where it is sent from: a phone opens its camera for it, a
    computer its files, as ever.
    """

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["photo"].widget.attrs["capture"] = "environment"


class BenchCameraForm(CameraForm):
    """One that is kept once, however often it is sent."""

    client_id = forms.UUIDField(widget=forms.HiddenInput, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs["initial"] = {"client_id": uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, **kwargs)
